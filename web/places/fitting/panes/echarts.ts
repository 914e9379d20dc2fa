import { LineChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TooltipComponent } from 'echarts/components';
import { type ECharts, init, use } from 'echarts/core';
import { CanvasRenderer } from 'echarts/renderers';

// Only what a line chart needs; loaded when the first chart is opened.
use([LineChart, GridComponent, LegendComponent, TooltipComponent, CanvasRenderer]);

export const newChart = (box: HTMLElement): ECharts => init(box, undefined, { renderer: 'canvas' });
