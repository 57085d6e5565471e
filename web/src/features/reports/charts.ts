/** The drawing library, loaded once; and the page's inks for it. */
export const INKS = {
  ink: '--ink',
  ink2: '--ink-2',
  rule: '--rule',
  ruleSoft: '--rule-soft',
  sheet: '--sheet',
  pine: '--pine',
  pineLine: '--pine-line',
  brick: '--brick',
  brickLine: '--brick-line',
  sky: '--sky',
  skyWash: '--sky-wash',
} as const
export type Inks = Record<keyof typeof INKS, string>
let loading: Promise<typeof import('./drawing')> | undefined

export function loadCharts(): Promise<typeof import('./drawing')> {
  loading ??= import('./drawing')
  // What failed to load is tried again with the next chart.
  loading.catch(() => (loading = undefined))
  return loading
}

export function readInks(): Inks {
  const style = getComputedStyle(document.documentElement)
  const read = Object.entries(INKS).map(([ink, name]) => [ink, style.getPropertyValue(name).trim()])
  return Object.fromEntries(read) as Inks
}

/** What stands by the pointer, as all charts have it. */
export const noteStyle = (inks: Inks): object => ({
  backgroundColor: inks.sheet,
  borderColor: inks.rule,
  textStyle: { color: inks.ink, fontSize: 12 },
})
/** Words at an axis, the axis of days, and the axis of counts. */
export const labelStyle = (inks: Inks): object => ({ color: inks.ink2, fontSize: 11 })
export const dayAxis = (inks: Inks, names: string[]): object => ({
  type: 'category',
  data: names,
  axisTick: { show: false },
  axisLine: { lineStyle: { color: inks.rule } },
  axisLabel: { ...labelStyle(inks), hideOverlap: true },
})
export const countAxis = (inks: Inks): object => ({
  type: 'value',
  minInterval: 1,
  splitLine: { lineStyle: { color: inks.ruleSoft } },
  axisLabel: labelStyle(inks),
})
