import type { EChartsType } from "echarts/core";
import { formatQuantity } from "@/core/units/quantity";
import type { DAY } from "../tokens";
import { type Line, lastKnown } from "./lines";
import type { Placed } from "./spread";

const PICTURE_SCALE = 2;
const PICTURE_HEAD = 26;

/** The chart as a picture of its own: what ECharts drew, with the title above and the names of lines at their ends. */
export function painted(
  chart: EChartsType,
  ends: readonly Placed<Line>[],
  title: string,
  theme: Record<keyof typeof DAY, string>,
  labelsAt: number,
  decimals?: number,
): HTMLCanvasElement {
  const width = chart.getWidth();
  const height = chart.getHeight();
  const canvas = document.createElement("canvas");
  canvas.width = width * PICTURE_SCALE;
  canvas.height = (height + PICTURE_HEAD) * PICTURE_SCALE;
  const pen = canvas.getContext("2d")!;
  pen.scale(PICTURE_SCALE, PICTURE_SCALE);
  pen.fillStyle = theme.surface;
  pen.fillRect(0, 0, width, height + PICTURE_HEAD);
  pen.fillStyle = theme.ink;
  pen.font = "bold 14px 'Atkinson Hyperlegible Next Variable', sans-serif";
  pen.fillText(title, 10, 18);
  pen.drawImage(chart.renderToCanvas({ pixelRatio: PICTURE_SCALE }), 0, PICTURE_HEAD, width, height);
  pen.font = "12px 'Atkinson Hyperlegible Next Variable', sans-serif";
  for (const { item, y, wanted } of ends) {
    pen.strokeStyle = item.colour;
    pen.beginPath();
    pen.moveTo(labelsAt, wanted + PICTURE_HEAD);
    pen.lineTo(labelsAt + 12, y + PICTURE_HEAD);
    pen.stroke();
    const last = lastKnown(item)?.[1] ?? Number.NaN;
    pen.fillText(
      `${item.name} ${formatQuantity(last, item.unit, decimals)}`,
      labelsAt + 16,
      y + PICTURE_HEAD + 4,
    );
  }
  return canvas;
}
