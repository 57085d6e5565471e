/** The drawing library, loaded once; and the page's inks for it. */
export type Inks = Record<
  'ink' | 'ink2' | 'rule' | 'ruleSoft' | 'sheet' | 'pine' | 'pineLine' | 'brick' | 'brickLine' | 'sky' | 'skyWash',
  string
>
let loading: Promise<typeof import('./drawing')> | undefined

export function loadCharts(): Promise<typeof import('./drawing')> {
  loading ??= import('./drawing')
  // What failed to load is tried again with the next chart.
  loading.catch(() => (loading = undefined))
  return loading
}

export function readInks(): Inks {
  const style = getComputedStyle(document.documentElement)
  const ink = (name: string): string => style.getPropertyValue(name).trim()
  return {
    ink: ink('--ink'),
    ink2: ink('--ink-2'),
    rule: ink('--rule'),
    ruleSoft: ink('--rule-soft'),
    sheet: ink('--sheet'),
    pine: ink('--pine'),
    pineLine: ink('--pine-line'),
    brick: ink('--brick'),
    brickLine: ink('--brick-line'),
    sky: ink('--sky'),
    skyWash: ink('--sky-wash'),
  }
}
