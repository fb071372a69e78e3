"use client";

import type { EChartsCoreOption, EChartsType } from "echarts/core";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { drawSoon } from "./drawQueue";

/** ECharts, fetched once and only where something is drawn. */
export const drawing = () => import("./echarts");

interface Props {
  option: EChartsCoreOption;
  width: number;
  height: number;
  /** Called after every drawing and resizing, for what is laid over the chart. */
  onDrawn?(chart: EChartsType): void;
  /** A time range that was dragged out on the chart. */
  onSelect?(from: number, to: number): void;
  /** The moment under the pointer; null when it leaves. */
  onPoint?(time: number | null): void;
  children?: ReactNode;
}

/** The one door to ECharts: draws an option, follows its size, and lets a time range be dragged out. */
export function EChart({ option, width, height, onDrawn, onSelect, onPoint, children }: Props) {
  const element = useRef<HTMLDivElement>(null);
  const chart = useRef<EChartsType | null>(null);
  const drawn = useRef(onDrawn);
  drawn.current = onDrawn;
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);

  useEffect(() => {
    const node = element.current!;
    let takeBack: (() => void) | null = null;
    let gone = false;
    void drawing().then(({ init }) => {
      if (gone) return;
      takeBack = drawSoon(node, () => {
        // With its size given a chart does not ask the page for it, which would have the page laid out for each.
        const size = { width, height };
        chart.current ??= init(node, null, { renderer: "canvas", ...size });
        const made = chart.current;
        if (made.getWidth() !== width || made.getHeight() !== height) made.resize(size);
        made.setOption(option, { notMerge: true });
        drawn.current?.(made);
        // Tells whoever measures the page when its last chart was drawn.
        performance.clearMarks("chart drawn");
        performance.mark("chart drawn");
      });
    });
    return () => {
      gone = true;
      takeBack?.();
    };
  }, [option, width, height]);

  useEffect(
    () => () => {
      chart.current?.dispose();
      chart.current = null;
    },
    [],
  );

  const position = (event: React.PointerEvent) =>
    event.clientX - element.current!.getBoundingClientRect().left;
  const finish = () => {
    if (drag && onSelect && chart.current && Math.abs(drag.to - drag.from) > 6) {
      const [a, b] = [Math.min(drag.from, drag.to), Math.max(drag.from, drag.to)];
      const made = chart.current;
      const toTime = (px: number) => Number(made.convertFromPixel({ xAxisIndex: 0 }, px));
      onSelect(toTime(a), toTime(b));
      // The moment that was pointed at lies elsewhere now, or nowhere.
      onPoint?.(null);
    }
    setDrag(null);
  };

  return (
    <div
      style={{ position: "relative", height, touchAction: "pan-y" }}
      onPointerDown={(event) => {
        if (!onSelect || event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        setDrag({ from: position(event), to: position(event) });
      }}
      onPointerMove={(event) => {
        if (drag) setDrag({ ...drag, to: position(event) });
        else if (onPoint && chart.current) {
          const point = [position(event), event.nativeEvent.offsetY];
          onPoint(
            chart.current.containPixel("grid", point)
              ? Number(chart.current.convertFromPixel({ xAxisIndex: 0 }, point[0]))
              : null,
          );
        }
      }}
      onPointerLeave={() => onPoint?.(null)}
      onPointerUp={finish}
      onPointerCancel={() => setDrag(null)}
    >
      <div ref={element} style={{ height: "100%", width: "100%" }} />
      {drag && Math.abs(drag.to - drag.from) > 2 && (
        <div
          style={{
            position: "absolute",
            top: 8,
            bottom: 22,
            left: Math.min(drag.from, drag.to),
            width: Math.abs(drag.to - drag.from),
            background: "var(--chakra-colors-glow)",
            opacity: 0.5,
            border: "1px solid var(--chakra-colors-lamp)",
            pointerEvents: "none",
          }}
        />
      )}
      {children}
    </div>
  );
}
