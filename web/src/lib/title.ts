/** What the browser's tab says: where one is, and how much waits. App.vue writes it. */
import { ref } from 'vue'

/** What waits, as the member wants it counted; 0 while nobody looks at a workspace. */
export const waits = ref(0)
export const sayTitle = (place: string, many: number): string =>
  `${many ? `(${many > 999 ? '999+' : many}) ` : ''}${place ? `${place}, ` : ''}Sorta`
