/** Links as the server finds them, for counting a text as it will be once they are short. */
import { LinkifyIt } from 'linkify-it'

const finder = new LinkifyIt({ fuzzyLink: false, fuzzyEmail: false })

/** The text with every link as long as a short one; unchanged where links stay as they are. */
export function asShortened(text: string, length: number | null): string {
  if (length === null) return text
  let made = ''
  let at = 0
  for (const found of finder.match(text) ?? []) {
    if (!/^https?:$/.test(found.schema)) continue
    made += text.slice(at, found.index) + 'x'.repeat(length)
    at = found.lastIndex
  }
  return made + text.slice(at)
}
