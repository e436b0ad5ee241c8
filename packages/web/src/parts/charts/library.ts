/** The parts of the chart library that are used; a chunk of its own, loaded with the first chart. */
import { BarChart, BoxplotChart, HeatmapChart, LineChart, ScatterChart } from 'echarts/charts';
import {
  AriaComponent,
  GridComponent,
  LegendComponent,
  MarkAreaComponent,
  MarkLineComponent,
  TooltipComponent,
  VisualMapComponent,
} from 'echarts/components';
import { init, use as register } from 'echarts/core';
import { CanvasRenderer, SVGRenderer } from 'echarts/renderers';

register([
  ...[BarChart, BoxplotChart, HeatmapChart, LineChart, ScatterChart],
  ...[AriaComponent, GridComponent, LegendComponent, MarkAreaComponent, MarkLineComponent, TooltipComponent],
  ...[VisualMapComponent, CanvasRenderer, SVGRenderer],
]);

export { init };
