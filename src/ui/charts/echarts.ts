/** What of ECharts is used, and nothing else of it. */
import { BarChart, HeatmapChart, LineChart, ScatterChart } from "echarts/charts";
import {
  AxisPointerComponent,
  GridComponent,
  MarkLineComponent,
  TooltipComponent,
  VisualMapComponent,
} from "echarts/components";
import { use } from "echarts/core";
import { CanvasRenderer } from "echarts/renderers";

use([
  LineChart,
  BarChart,
  ScatterChart,
  HeatmapChart,
  VisualMapComponent,
  GridComponent,
  TooltipComponent,
  AxisPointerComponent,
  MarkLineComponent,
  CanvasRenderer,
]);

export { init } from "echarts/core";
