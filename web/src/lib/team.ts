/** How a team chooses whom to give work to, in words that follow 'gives'. */
export const WAYS = [
  ['in_turn', 'in turn'],
  ['lightest', 'to the lightest load'],
  ['known', 'to whoever knew the person last'],
] as const
