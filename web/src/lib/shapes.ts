/** The few fields that lib needs to know, so that it imports nothing above it. */
export interface Edges {
  now: string
  hour: string
  today: string
}
export interface MoveCount {
  late: number
  within_hour: number
  later_today: number
  after_today: number
  not_due: number
}
export interface Row {
  id: number
  due: string | null
}
