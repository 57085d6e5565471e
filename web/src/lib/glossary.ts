/** What the desk's words mean, as docs/trade.md has them; each can be led to from where it stands. */
export interface Word {
  id: string
  word: string
  says: string
}
export const GLOSSARY: { title: string; words: Word[] }[] = [
  {
    title: 'Whose move it is',
    words: [
      {
        id: 'moves',
        word: 'Move',
        says: 'Whose turn it is in a conversation. Nobody sets it: it follows from what was said and done.',
      },
      {
        id: 'unsorted',
        word: 'Unsorted',
        says: 'They wrote, and nobody and no rule has looked at it yet. Taking, tagging, noting, answering or Keep sorts it; opening does not.',
      },
      { id: 'our-move', word: 'Our move', says: 'They wait for us, and it has been sorted.' },
      { id: 'in-review', word: 'In review', says: 'An answer is written and waits for somebody’s approval.' },
      {
        id: 'their-move',
        word: 'Their move',
        says: 'We answered, or asked somebody outside; the next word is theirs.',
      },
      {
        id: 'parked',
        word: 'Parked',
        says: 'Out of the list until a time, or until they write again. The clock goes on.',
      },
      {
        id: 'settled',
        word: 'Settled',
        says: 'Done: answered, no reply needed, handed over, junk or removed. It comes back when they write again.',
      },
      {
        id: 'on-its-way',
        word: 'On its way',
        says: 'Sent here and not yet there: for some seconds it can be called back. If the network does not take it, it is our move again and says why.',
      },
    ],
  },
  {
    title: 'How soon',
    words: [
      {
        id: 'due',
        word: 'Due',
        says: 'When an answer is promised: their earliest unanswered message plus the target for its priority, counted in working hours.',
      },
      {
        id: 'notches',
        word: 'Notches',
        says: 'The strokes at a row’s edge are its priority: none Low, one Normal, two High, three Urgent.',
      },
      {
        id: 'bands',
        word: 'Bands',
        says: 'Late, within the hour, later today, after today, not due: the list in the order of what is due.',
      },
      {
        id: 'horizon',
        word: 'Horizon',
        says: 'The strip over the list: what falls due in the next eight working hours. Choose a stretch of it and the list shows that.',
      },
      { id: 'pace', word: 'Pace', says: 'When the desk is clear if it goes on as in the last two working hours.' },
    ],
  },
  {
    title: 'What they wrote',
    words: [
      {
        id: 'letters',
        word: 'Network letters',
        says: 'Two letters stand for a network; a dashed frame says that only we and they can read it.',
      },
      {
        id: 'reads-as',
        word: 'Reads as',
        says: 'Question, complaint, praise, thanks or spam, and how sure that is. ‘Not sure’ is an answer too: then no rule that asks for it acts. Your correction wins.',
      },
      {
        id: 'bare-mention',
        word: 'Bare mention',
        says: 'Somebody is named and hardly anything else is said: mostly a friend being called over, which needs no answer.',
      },
      {
        id: 'found',
        word: 'Found',
        says: 'Nobody wrote to us; it turned up in a search for words that are listened for.',
      },
      { id: 'first-contact', word: 'First contact', says: 'This person has never written to us before.' },
      {
        id: 'kept-aside',
        word: 'Kept aside',
        says: 'What a network sent and could not be understood. Nothing is lost: it can be tried again.',
      },
    ],
  },
  {
    title: 'Who they are',
    words: [
      {
        id: 'standing',
        word: 'Standing',
        says: 'From 0 to 100: how much this person has been in touch with us lately, beside everybody else here. A reaction is 1 point, a comment 3, a mention 4, a private message 5, a review 6, a form entry 8; each halves every 30 days.',
      },
      { id: 'reach', word: 'Reach', says: 'From 0 to 100: how large their audience is, as their network tells it.' },
    ],
  },
  {
    title: 'Answering together',
    words: [
      {
        id: 'proposal',
        word: 'Proposal',
        says: 'An answer that waits for approval. If they write again meanwhile it is overtaken and has to be confirmed.',
      },
      {
        id: 'team-note',
        word: 'Team note',
        says: 'Words for colleagues. They never leave the building; @ and a name tells somebody.',
      },
      {
        id: 'advice',
        word: 'Outside advice',
        says: 'A question by mail to somebody without a login. Their answer lands in the margin.',
      },
      { id: 'case', word: 'Case', says: 'What the support desk made of a conversation that was handed over to it.' },
      {
        id: 'utm',
        word: 'UTM tags',
        says: 'Signs at the end of a link that tell your web statistics which network and page a visitor came from. Links in answers get them by themselves.',
      },
      {
        id: 'sign-off',
        word: 'Sign-off',
        says: 'The line that closes the answers of an account, such as the initials of whoever writes.',
      },
      {
        id: 'draw',
        word: 'Draw',
        says: 'A prize drawn among those who commented under a post: one entry a person, and anybody can check the result.',
      },
      {
        id: 'hold',
        word: 'Held',
        says: 'Nothing goes out for now. What is written waits, and all of it goes when it is released.',
      },
    ],
  },
]
