/** Answers may overtake each other: one that comes after the answer to a later question is out of date. */
export function inOrder(): { ask: () => number; isNews: (question: number) => boolean } {
  let asked = 0
  let answered = 0
  return {
    ask: () => ++asked,
    isNews: (question) => {
      if (question < answered) return false
      answered = question
      return true
    },
  }
}
