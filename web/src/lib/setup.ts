/** The sections of Setup in their order: the id of each heading, and its words. */
export const SETUP_SECTIONS = [
  ['accounts-title', 'Accounts'],
  ['roles-title', 'Members and roles'],
  ['desks-title', 'Support desks'],
  ['hours-title', 'Working hours and targets'],
  ['saved-title', 'Saved replies'],
  ['links-title', 'Links'],
  ['policies-title', 'Approval'],
  ['domains-title', 'Outside advice'],
  ['listening-title', 'Listening'],
  ['reading-title', 'How well messages are read'],
  ['clock-title', 'What runs by itself'],
  ['aside-title', 'Kept aside'],
] as const
