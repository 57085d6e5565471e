/** The one place that speaks to a screen reader without being asked: App.vue shows what is said here, out of sight. */
import { ref } from 'vue'

export const announced = ref('')
/** Said politely, after what is being read; the same words said twice are heard twice. */
export function announce(words: string): void {
  announced.value = announced.value === words ? `${words}\u00a0` : words
}
