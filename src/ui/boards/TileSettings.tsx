"use client";

import { Box, Button, Flex } from "@chakra-ui/react";
import { useState } from "react";
import type { Tile } from "@/core/boards/board";
import { useTreeRows } from "../frame/scopeTree";
import { Modal } from "../Modal";
import { Fault } from "../Page";
import { SelectField, TextField } from "../TextField";
import { ChartBuilder, faultsOf } from "../watch/builder/ChartBuilder";

const FOLLOW = "\u0000";
const TIMES: [string, string][] = [
  ["", "as the page"],
  ["900", "always the last 15 min"],
  ["3600", "always the last hour"],
  ["21600", "always the last 6 h"],
  ["86400", "always the last day"],
  ["604800", "always the last week"],
  ["2419200", "always the last 4 weeks"],
  ["4838400", "always the last 8 weeks"],
];

/** What a tile shows and what it is pinned to. */
export function TileSettings(props: { tile: Tile; scope: string; onSave(tile: Tile): void; close(): void }) {
  const { scope, onSave, close } = props;
  const [tile, setTile] = useState(props.tile);
  const rows = useTreeRows();
  const { content } = tile;
  const fault = content.type === "chart" ? faultsOf(content.chart) : null;
  const put = (change: Partial<Tile>) => {
    const next = { ...tile, ...change };
    for (const key of ["title", "scope", "lastSeconds"] as const)
      if (next[key] === undefined) delete next[key];
    setTile(next);
  };
  return (
    <Modal
      title="Change the tile"
      size={content.type === "chart" ? "xl" : "md"}
      close={close}
      footer={
        <>
          <Button size="sm" variant="outline" onClick={close}>
            Leave it
          </Button>
          <Button
            size="sm"
            disabled={fault !== null}
            onClick={() => {
              onSave(tile);
              close();
            }}
          >
            Use it
          </Button>
        </>
      }
    >
      <Flex direction="column" gap="10px">
        <TextField
          label="Title over the tile"
          value={tile.title ?? ""}
          onChange={(title) => put({ title: title === "" ? undefined : title })}
        />
        {content.type !== "section" && content.type !== "text" && content.type !== "clock" && (
          <Flex gap="10px">
            <SelectField
              label="Scope"
              value={tile.scope ?? FOLLOW}
              onChange={(value) => put({ scope: value === FOLLOW ? undefined : value })}
              options={[
                [FOLLOW, "follows the page and the focus"],
                ["", "pinned to everything"],
                ...rows.map((row): [string, string] => [
                  row.scope,
                  `pinned to ${row.count === null ? "" : "the group "}${row.title}`,
                ]),
              ]}
            />
            {content.type === "chart" && (
              <SelectField
                label="Time"
                value={tile.lastSeconds ? String(tile.lastSeconds) : ""}
                onChange={(value) => put({ lastSeconds: value ? Number(value) : undefined })}
                options={TIMES}
              />
            )}
          </Flex>
        )}
        {content.type === "text" && (
          <TextField
            label="Markdown"
            lines={10}
            value={content.markdown}
            onChange={(markdown) => put({ content: { type: "text", markdown } })}
            help="headings, lists, tables, links, and pictures as ![what it shows](address)"
          />
        )}
        {content.type === "clock" && (
          <TextField
            label="Zone"
            value={content.zone ?? ""}
            placeholder="Europe/Oslo; empty for the viewer's"
            onChange={(zone) => put({ content: { type: "clock", ...(zone ? { zone } : {}) } })}
          />
        )}
        {content.type === "chart" && (
          <ChartBuilder
            chart={content.chart}
            scope={tile.scope ?? scope}
            onChange={(chart) => put({ content: { type: "chart", chart } })}
          />
        )}
        {fault && (
          <Box>
            <Fault>{fault.whole || Object.values(fault.lines)[0]}</Fault>
          </Box>
        )}
      </Flex>
    </Modal>
  );
}
