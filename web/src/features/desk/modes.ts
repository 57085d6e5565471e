/** The three ways of writing, which look different in every light: who can read it is never a question. */
import type { ReplyMode } from '@/api/types'

export const MODES = [
  ['public', 'Public reply', 'R'],
  ['private', 'Private message', 'D'],
  ['note', 'Team note', 'N'],
] as const
export const NAMES = Object.fromEntries(MODES.map(([key, word]) => [key, word])) as Record<ReplyMode, string>
export const INKS: Record<ReplyMode, { frame: string; tab: string; says: string; button: string }> = {
  public: { frame: 'border-pine', tab: 'bg-pine-wash text-pine', says: 'text-pine', button: 'bg-pine text-on-pine' },
  private: {
    frame: 'border-dashed border-plum',
    tab: 'bg-plum-wash text-plum',
    says: 'text-plum',
    button: 'bg-plum text-sheet',
  },
  note: {
    frame: 'border-honey-line forced-colors:border-dotted',
    tab: 'bg-honey-wash text-honey',
    says: 'text-honey',
    button: 'bg-honey text-sheet',
  },
}
