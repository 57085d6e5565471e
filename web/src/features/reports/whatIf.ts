/** What is changed in days that are played again, and what came of it, in words. */
import type { NewWhatIf, WhatIfResult } from '@/api/types'
import { sayFigure, saySpan, type Unit } from '@/lib/reports'

export const PLAYED: { name: string; title: string; unit: Unit; less: 'better' | 'worse' | null }[] = [
  { name: 'first_half', title: 'First answer, half within', unit: 'seconds', less: 'better' },
  { name: 'first_nine', title: 'First answer, 9 of 10 within', unit: 'seconds', less: 'better' },
  { name: 'kept', title: 'Within its target', unit: 'share', less: 'worse' },
  { name: 'answers', title: 'Answers', unit: 'cases', less: null },
  { name: 'open', title: 'Still waiting at the end', unit: 'cases', less: 'better' },
]
export interface Spread {
  middle: number | null
  low: number | null
  high: number | null
}
export const sayMiddle = (unit: Unit, of: Spread | undefined): string =>
  sayFigure(unit, of?.middle == null ? null : unit === 'cases' ? Math.round(of.middle) : of.middle)
export function sayReach(unit: Unit, of: Spread | undefined): string {
  if (of?.low == null || of.high == null) return ''
  const say = (n: number): string => sayFigure(unit, unit === 'cases' ? Math.round(n) : n)
  return `${say(of.low)} to ${say(of.high)}`
}
const signed = (n: number, say: (n: number) => string): string => (n < 0 ? `−${say(-n)}` : `+${say(n)}`)
/** A difference with its sign; shares in points. */
export function sayDifference(unit: Unit, n: number | null): string {
  if (n === null) return '–'
  if (unit === 'share') return signed(n, (v) => `${(v * 100).toFixed(1)} points`)
  return signed(n, (v) => (unit === 'cases' ? String(Math.round(v)) : saySpan(v)))
}
/** Whether a difference is one that luck alone does not make, and for better or worse. */
export function judge(of: Spread, less: 'better' | 'worse' | null): 'better' | 'worse' | 'none' {
  if (of.low === null || of.high === null || less === null || (of.low <= 0 && of.high >= 0)) return 'none'
  return of.high < 0 === (less === 'better') ? 'better' : 'worse'
}
/** Whether the days, played as they were, come out far from how they really were: then it is a hint and no more. */
export function isFar(result: WhatIfResult): boolean {
  return (['first_half', 'first_nine'] as const).some((name, n) => {
    const really = result.really[name]
    const played = result.figures[name]?.before.middle
    if (really == null || played == null) return false
    return Math.abs(Math.log((played + 60) / (really + 60))) > Math.log(n ? 2 : 1.5)
  })
}

/** What is changed, each change in its words. */
export function listChanges(
  asked: NewWhatIf,
  names: { member: (id: number) => string; team: (id: number) => string; rule: (id: number) => string },
): string[] {
  const people = (asked.more ?? []).map((one) => {
    const where = one.team == null ? '' : ` in ${names.team(one.team)}`
    return `${one.count} more ${one.count === 1 ? 'person' : 'people'}${where}${one.shift ? ' with hours of their own' : ''}`
  })
  const rules = Object.entries(asked.rules ?? {}).map(([id, on]) => `‘${names.rule(Number(id))}’ ${on ? 'on' : 'off'}`)
  return [
    ...people,
    ...(asked.without ?? []).map((id) => `without ${names.member(id)}`),
    ...(asked.hours ? ['other hours'] : []),
    ...(asked.targets ? ['other targets'] : []),
    ...rules,
    ...(asked.handling ? [`an answer takes ${asked.handling} min`] : []),
    ...(asked.given === false ? ['nothing is given out'] : []),
  ]
}
