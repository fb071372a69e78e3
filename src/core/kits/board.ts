import type { BoardDefinition, Tile } from "../boards/board";
import { type ChartSpec, chartOf } from "../charts/spec";
import { KITS } from ".";

export interface KitBoard {
  name: string;
  kit: string;
  definition: BoardDefinition;
}

const LIST = { w: 4, h: 6 };
const CHART = { w: 4, h: 6 };

/**
 * The boards that kits bring: its systems and their alerts, of which one can be brought into focus, and the kit's charts
 * beside and below.
 */
export function kitBoards(): KitBoard[] {
  return KITS.flatMap((kit) => {
    if (kit.board.length === 0) return [];
    const kits = [kit.id, ...(kit.parts ?? [])];
    const tiles: Tile[] = [
      {
        id: "systems",
        x: 0,
        y: 0,
        ...LIST,
        content: { type: "systems", kits },
      },
      { id: "alerts", x: 4, y: 0, ...LIST, content: { type: "alerts", kits } },
    ];
    kit.board.forEach((item, i) => {
      const place = i + 2;
      tiles.push({
        id: `c${i + 1}`,
        x: (place % 3) * 4,
        y: Math.floor(place / 3) * 6,
        ...CHART,
        content: {
          type: "chart",
          chart: typeof item === "string" ? chartOf(item) : (item satisfies ChartSpec),
        },
      });
    });
    return [
      {
        name: `kit-${kit.id}`,
        kit: kit.title,
        definition: { title: kit.boardTitle, tiles },
      },
    ];
  });
}
