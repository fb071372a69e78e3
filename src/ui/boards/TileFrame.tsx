"use client";

import { Box, Flex, IconButton, Text } from "@chakra-ui/react";
import { Copy, Link2, Pin, Settings2, Trash2 } from "lucide-react";
import { useRef } from "react";
import { TILE_WORDS, type Tile } from "@/core/boards/board";
import { type Focus, following, tileScope } from "@/core/boards/focus";
import { labelWords } from "@/core/rules/sentence";
import type { ChartHandle } from "../charts/Chart";
import { ChartMenu } from "../charts/ChartMenu";
import { chartTitle } from "../charts/lines";
import { useNow } from "../state/clock";
import { pixelsOf } from "./layout";
import { TileBody } from "./tiles";

const HEAD = 32;
const FOOT = 8;

interface Props {
  tile: Tile;
  focus: Focus | null;
  frameScope: string;
  from: number;
  to: number;
  editing: boolean;
  onFocus(focus: Focus | null): void;
  onSelect(from: number, to: number): void;
  onChange(): void;
  onDuplicate(): void;
  onRemove(): void;
}

/** A tile with its head: its title, how it stands to the focus, and what can be done with it. */
export function TileFrame(props: Props) {
  const { tile, focus, frameScope, editing, onFocus } = props;
  const now = useNow();
  const handle = useRef<ChartHandle>({ answer: null, paint: null });
  const { scope, labels } = tileScope(tile, focus, frameScope);
  const title = titleOf(tile);
  const range = tile.lastSeconds
    ? { from: now - tile.lastSeconds * 1000, to: now }
    : { from: props.from, to: props.to };
  if (tile.content.type === "section")
    return (
      <Flex
        h="100%"
        align="flex-end"
        justify="space-between"
        borderBottomWidth="2px"
        borderColor="line"
        pb="3px"
      >
        <Text
          as="h2"
          fontSize="16px"
          fontWeight="700"
          className="tile-handle"
          cursor={editing ? "move" : undefined}
        >
          {title}
        </Text>
        {editing && <EditButtons {...props} title={title} />}
      </Flex>
    );
  return (
    <Flex
      direction="column"
      h="100%"
      bg="surface"
      borderWidth="1px"
      borderColor={focus?.by === tile.id ? "lamp" : "line"}
      borderRadius="10px"
      overflow="hidden"
    >
      <Flex h={`${HEAD}px`} px="10px" align="center" gap="6px" flex="none">
        <Text
          as="h2"
          className="tile-handle"
          cursor={editing ? "move" : undefined}
          fontSize="13.5px"
          fontWeight="700"
          flex="1"
          minW="0"
          overflow="hidden"
          textOverflow="ellipsis"
          whiteSpace="nowrap"
          title={title}
        >
          {title}
        </Text>
        <Standing tile={tile} focus={focus} />
        {editing ? (
          <EditButtons {...props} title={title} />
        ) : (
          tile.content.type === "chart" && (
            <ChartMenu chart={tile.content.chart} scope={scope} handle={handle} />
          )
        )}
      </Flex>
      <Box px="10px" pb={`${FOOT}px`} flex="1" minH="0">
        <TileBody
          tile={tile}
          scope={scope}
          labels={labels}
          {...range}
          height={pixelsOf(tile.h) - HEAD - FOOT - 2}
          picked={focus?.by === tile.id ? { system: focus.system, labels: focus.labels } : null}
          onPick={(picked) => {
            const same =
              focus?.by === tile.id &&
              focus.system === picked.system &&
              JSON.stringify(focus.labels) === JSON.stringify(picked.labels);
            onFocus(same ? null : { by: tile.id, ...picked });
          }}
          onSelect={props.onSelect}
          handle={handle}
        />
      </Box>
    </Flex>
  );
}

export function titleOf({ title, content }: Tile): string {
  if (title) return title;
  return content.type === "chart" ? chartTitle(content.chart) || "A chart" : TILE_WORDS[content.type].title;
}

/** Who leads, who follows, who is pinned: in a word with a mark. */
function Standing({ tile, focus }: { tile: Tile; focus: Focus | null }) {
  const standing = following(tile, focus);
  if (standing === "apart" || (standing === "follows" && focus === null)) return null;
  const words =
    standing === "pinned"
      ? `pinned to ${tile.scope === "" ? "everything" : tile.scope!.replace(/^group:/, "")}`
      : standing === "leads"
        ? "leads"
        : `follows ${[focus!.system, labelWords(focus!.labels)].filter(Boolean).join(", ")}`;
  return (
    <Flex
      align="center"
      gap="3px"
      color={standing === "pinned" ? "soft" : "spruce"}
      fontSize="12px"
      maxW="45%"
      title={words}
      data-standing={standing}
    >
      {standing === "pinned" ? <Pin size={12} aria-hidden="true" /> : <Link2 size={12} aria-hidden="true" />}
      <Text as="span" overflow="hidden" textOverflow="ellipsis" whiteSpace="nowrap">
        {words}
      </Text>
    </Flex>
  );
}

function EditButtons({ title, onChange, onDuplicate, onRemove }: Props & { title: string }) {
  return (
    <Flex flex="none" className="tile-buttons">
      <IconButton size="2xs" variant="ghost" aria-label={`Change ${title}`} onClick={onChange}>
        <Settings2 size={14} />
      </IconButton>
      <IconButton size="2xs" variant="ghost" aria-label={`Duplicate ${title}`} onClick={onDuplicate}>
        <Copy size={14} />
      </IconButton>
      <IconButton size="2xs" variant="ghost" color="now" aria-label={`Remove ${title}`} onClick={onRemove}>
        <Trash2 size={14} />
      </IconButton>
    </Flex>
  );
}
