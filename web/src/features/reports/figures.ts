/** Figures and their changes as people say them. */
import type { ReportFigure, ReportValue } from '@/api/types'
import { sayFigure, sayNumber, saySpan } from '@/lib/reports'

/** '31 min to 38 min'; nothing for what has no interval. */
export function sayInterval(unit: ReportFigure['unit'], of: ReportValue): string {
  if (of.low === null || of.high === null || of.value === null) return ''
  if (unit === 'share') return `${(of.low * 100).toFixed(1)} to ${(of.high * 100).toFixed(1)}`
  return `${saySpan(of.low)} to ${saySpan(of.high)}`
}
/** What a change is to whoever works here. */
export function judge(figure: ReportFigure): 'better' | 'worse' | 'other' | 'same' {
  if (!figure.stands_out || figure.difference === null) return 'same'
  if (figure.unit === 'cases') return 'other'
  return figure.difference > 0 === (figure.unit === 'share') ? 'better' : 'worse'
}
/** Against what it was: 'was 26 min', '9 % more, within the usual'. */
export function sayChange(figure: ReportFigure): string {
  if (figure.unit !== 'cases')
    return figure.before.value === null
      ? 'nothing to compare with'
      : `was ${sayFigure(figure.unit, figure.before.value)}`
  if (figure.difference === null) return figure.before.value ? 'the first day is not over' : 'nothing to compare with'
  if (figure.difference === 0) return 'as many as before'
  const more = figure.difference > 0 ? 'more' : 'fewer'
  const base = figure.before.value ?? 0
  const by =
    base >= 20 ? `${Math.round((Math.abs(figure.difference) / base) * 100)} %` : sayNumber(Math.abs(figure.difference))
  if (figure.difference_low === null) return `${by} ${more}`
  return `${by} ${more}, ${figure.stands_out ? 'beyond the usual' : 'within the usual'}`
}
