type Needed = 'manage_accounts' | 'manage_members'
interface Section {
  /** The id of its heading. */
  id: string
  words: string
  /** What one has to hold to see it. */
  needs?: Needed
}
/** The sections of Setup in their order. */
const SECTIONS: readonly Section[] = [
  { id: 'about-title', words: 'This workspace' },
  { id: 'accounts-title', words: 'Accounts' },
  { id: 'roles-title', words: 'Members and roles' },
  { id: 'invitations-title', words: 'Invite colleagues', needs: 'manage_members' },
  { id: 'teams-title', words: 'Teams' },
  { id: 'groups-title', words: 'Account groups' },
  { id: 'alerts-title', words: 'Alerts', needs: 'manage_members' },
  { id: 'desks-title', words: 'Support desks' },
  { id: 'hours-title', words: 'Working hours and targets' },
  { id: 'tags-title', words: 'Tags' },
  { id: 'saved-title', words: 'Saved replies' },
  { id: 'library-title', words: 'Library' },
  { id: 'links-title', words: 'Links' },
  { id: 'policies-title', words: 'Approval' },
  { id: 'domains-title', words: 'Outside advice' },
  { id: 'listening-title', words: 'Listening' },
  { id: 'reading-title', words: 'How well messages are read' },
  { id: 'programs-title', words: 'Programs', needs: 'manage_accounts' },
  { id: 'clock-title', words: 'What runs by itself', needs: 'manage_accounts' },
  { id: 'signing-in-title', words: 'Signing in', needs: 'manage_members' },
  { id: 'security-title', words: 'Security log', needs: 'manage_members' },
  { id: 'import-title', words: 'Bring in conversations', needs: 'manage_accounts' },
  { id: 'aside-title', words: 'Kept aside', needs: 'manage_accounts' },
]

/** Those that somebody sees, `may` saying what they hold. */
export const listSections = (may: (permission: Needed) => boolean): Section[] =>
  SECTIONS.filter((s) => !s.needs || may(s.needs))
