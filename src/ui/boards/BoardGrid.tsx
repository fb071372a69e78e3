"use client";

import "react-grid-layout/css/styles.css";
import { Box } from "@chakra-ui/react";
import GridLayout from "react-grid-layout";
import { COLUMNS, readingOrder, type Tile } from "@/core/boards/board";
import type { Focus } from "@/core/boards/focus";
import { useWidth } from "../useWidth";
import { GAP, nudged, placesOf, ROW_HEIGHT, resized, withPlaces } from "./layout";
import { TileFrame, titleOf } from "./TileFrame";

interface Props {
  tiles: Tile[];
  editing: boolean;
  focus: Focus | null;
  frameScope: string;
  from: number;
  to: number;
  onFocus(focus: Focus | null): void;
  onSelect(from: number, to: number): void;
  onTiles(tiles: readonly Tile[]): void;
  onChange(id: string): void;
  onDuplicate(tile: Tile): void;
  onRemove(id: string): void;
}

/** Tiles on their grid. While the board is changed they are dragged and resized by mouse, or by arrow keys on the tile. */
export function BoardGrid(props: Props) {
  const { tiles, editing, onTiles } = props;
  const [ref, width] = useWidth<HTMLDivElement>();
  const keys = (event: React.KeyboardEvent, tile: Tile) => {
    if (!editing || event.target !== event.currentTarget) return;
    const dx = event.key === "ArrowLeft" ? -1 : event.key === "ArrowRight" ? 1 : 0;
    const dy = event.key === "ArrowUp" ? -1 : event.key === "ArrowDown" ? 1 : 0;
    if (dx !== 0 || dy !== 0)
      onTiles(event.shiftKey ? resized(tiles, tile.id, dx, dy) : nudged(tiles, tile.id, dx, dy));
    else if (event.key === "Enter") props.onChange(tile.id);
    else if (event.key === "d") props.onDuplicate(tile);
    else if (event.key === "Delete") props.onRemove(tile.id);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Box ref={ref} mx={`-${GAP}px`}>
      {editing && (
        <Box color="soft" fontSize="13px" px={`${GAP}px`} mb="1">
          Drag a tile by its title, resize it at its corner. With the keyboard: arrows move the tile that is
          chosen with Tab, Shift and arrows resize it, Enter changes it, D duplicates, Delete removes.
        </Box>
      )}
      {width > 0 && (
        <GridLayout
          width={width}
          layout={placesOf(tiles)}
          gridConfig={{
            cols: COLUMNS,
            rowHeight: ROW_HEIGHT,
            margin: [GAP, GAP],
            containerPadding: [GAP, 0],
          }}
          dragConfig={{ enabled: editing, handle: ".tile-handle" }}
          resizeConfig={{ enabled: editing, handles: ["se"] }}
          onDragStop={(layout) => onTiles(withPlaces(tiles, layout))}
          onResizeStop={(layout) => onTiles(withPlaces(tiles, layout))}
        >
          {readingOrder(tiles).map((tile) => (
            <Box
              key={tile.id}
              as="section"
              aria-label={titleOf(tile)}
              tabIndex={editing ? 0 : undefined}
              onKeyDown={(event) => keys(event, tile)}
              borderRadius="10px"
              css={editing ? { "& .react-resizable-handle": { zIndex: 2 } } : undefined}
            >
              <TileFrame
                tile={tile}
                focus={props.focus}
                frameScope={props.frameScope}
                from={props.from}
                to={props.to}
                editing={editing}
                onFocus={props.onFocus}
                onSelect={props.onSelect}
                onChange={() => props.onChange(tile.id)}
                onDuplicate={() => props.onDuplicate(tile)}
                onRemove={() => props.onRemove(tile.id)}
              />
            </Box>
          ))}
        </GridLayout>
      )}
    </Box>
  );
}
