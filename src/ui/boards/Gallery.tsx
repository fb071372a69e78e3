"use client";

import { Box, Button, chakra, Grid, Text } from "@chakra-ui/react";
import { TILE_WORDS, type TileContent } from "@/core/boards/board";
import { chartOf } from "@/core/charts/spec";
import { KITS } from "@/core/kits";
import { chartTitle } from "../charts/lines";
import { Modal } from "../Modal";

/** What a new tile of each kind begins with. */
const BEGINNINGS: { [T in TileContent["type"]]: Extract<TileContent, { type: T }> } = {
  chart: { type: "chart", chart: chartOf("") },
  systems: { type: "systems" },
  alerts: { type: "alerts" },
  state: { type: "state" },
  runway: { type: "runway" },
  text: { type: "text", markdown: "## What to do\n\nWrite here, in Markdown." },
  clock: { type: "clock" },
  section: { type: "section" },
};

const Choice = chakra("button", {
  base: {
    textAlign: "left",
    padding: "8px 10px",
    borderWidth: "1px",
    borderColor: "line",
    borderRadius: "8px",
    cursor: "pointer",
    background: "surface",
    _hover: { borderColor: "spruce" },
  },
});

/** Tiles to choose from: the kinds there are, and the charts that kits bring. */
export function Gallery({ onChoose, close }: { onChoose(content: TileContent): void; close(): void }) {
  const choose = (content: TileContent) => {
    onChoose(content);
    close();
  };
  return (
    <Modal
      title="Add a tile"
      size="xl"
      close={close}
      footer={
        <Button size="sm" variant="outline" onClick={close}>
          Leave it
        </Button>
      }
    >
      <Grid templateColumns="repeat(auto-fill, minmax(190px, 1fr))" gap="8px">
        {(Object.keys(BEGINNINGS) as TileContent["type"][]).map((type) => (
          <Choice key={type} type="button" onClick={() => choose(BEGINNINGS[type])}>
            <Text fontWeight="700">{TILE_WORDS[type].title}</Text>
            <Text color="soft" fontSize="13px">
              {TILE_WORDS[type].meaning}
            </Text>
          </Choice>
        ))}
      </Grid>
      {KITS.filter((kit) => kit.board.length > 0).map((kit) => (
        <Box key={kit.id} mt="14px">
          <Text as="h3" fontWeight="700" mb="1">
            {kit.title}
          </Text>
          <Grid templateColumns="repeat(auto-fill, minmax(190px, 1fr))" gap="8px">
            {kit.board.map((item) => {
              const chart = typeof item === "string" ? chartOf(item) : item;
              return (
                <Choice
                  key={chartTitle(chart)}
                  type="button"
                  onClick={() => choose({ type: "chart", chart })}
                >
                  {chartTitle(chart)}
                </Choice>
              );
            })}
          </Grid>
        </Box>
      ))}
    </Modal>
  );
}
