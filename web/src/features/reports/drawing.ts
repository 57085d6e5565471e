/** What of the drawing library is drawn with; a module of its own, so that it is loaded with the first chart and no more of it. */
import { BarChart, HeatmapChart, LineChart } from 'echarts/charts'
import { GridComponent, MarkLineComponent, TooltipComponent, VisualMapComponent } from 'echarts/components'
import * as core from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'

core.use([
  BarChart,
  HeatmapChart,
  LineChart,
  GridComponent,
  TooltipComponent,
  MarkLineComponent,
  VisualMapComponent,
  SVGRenderer,
])
export const init = core.init
