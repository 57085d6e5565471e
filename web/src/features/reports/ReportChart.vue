<script setup lang="ts">
/** A chart with its text alternative and its table. The drawing library is loaded with the first chart; its colours are the inks. */
import type { EChartsType } from 'echarts/core'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { WORN } from '@/lib/screen'
import { loadCharts, readInks, type Inks } from './charts'

const props = defineProps<{
  title: string
  /** What it shows, in a sentence. */
  says: string
  height: number
  option: (inks: Inks) => object
}>()
const emit = defineEmits<{ pick: [at: { seriesIndex: number; dataIndex: number; data: unknown }] }>()
const box = ref<HTMLElement | null>(null)
const failed = ref('')
let chart: EChartsType | undefined
let sized: ResizeObserver | undefined
const dark = window.matchMedia('(prefers-color-scheme: dark)')
const print = window.matchMedia('print')

function draw(): void {
  chart?.setOption({ animation: false, textStyle: { fontFamily: 'inherit' }, ...props.option(readInks()) }, true)
}
onMounted(async () => {
  try {
    const charts = await loadCharts()
    if (!box.value) return
    chart = charts.init(box.value, undefined, { renderer: 'svg' })
    chart.on('click', (event) =>
      emit('pick', { seriesIndex: event.seriesIndex ?? 0, dataIndex: event.dataIndex, data: event.data }),
    )
    draw()
    sized = new ResizeObserver(() => chart?.resize())
    sized.observe(box.value)
    dark.addEventListener('change', draw)
    print.addEventListener('change', draw)
    window.addEventListener(WORN, draw)
  } catch {
    failed.value = 'The drawing could not be loaded. The table below has the same figures.'
  }
})
watch(() => props.option, draw)
onBeforeUnmount(() => {
  sized?.disconnect()
  dark.removeEventListener('change', draw)
  print.removeEventListener('change', draw)
  window.removeEventListener(WORN, draw)
  chart?.dispose()
})
</script>

<template>
  <section class="break-inside-avoid">
    <div class="mb-1 flex items-baseline gap-3">
      <h2 class="font-name text-[0.9375rem] font-bold">{{ title }}</h2>
      <slot name="beside" />
    </div>
    <p v-if="failed" role="alert" class="text-brick">{{ failed }}</p>
    <div ref="box" role="img" :aria-label="says" :style="{ height: `${height}px` }" class="w-full" />
    <details class="text-[0.8125rem]">
      <summary class="cursor-pointer text-xs text-pine underline">as a table</summary>
      <div class="max-h-72 scroll-quiet overflow-auto" tabindex="0" role="region" :aria-label="`${title}, as a table`">
        <slot name="table" />
      </div>
    </details>
  </section>
</template>
