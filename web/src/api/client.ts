/** The one way to the API: typed paths, the session's word on every write, problems as errors. */
import createClient from 'openapi-fetch'
import type { paths } from './schema'
import type { Problem } from './types'

/** A refusal in words, as the server gave it; `status` 0 means it could not be reached. */
export class ApiProblem extends Error {
  readonly problem: Problem
  constructor(problem: Problem) {
    super(problem.detail)
    this.problem = problem
  }
  get status(): number {
    return this.problem.status
  }
  /** The last part of the stable type, such as `moved-on`. */
  get kind(): string {
    return this.problem.type.split('/').at(-1) ?? ''
  }
}

let csrf = ''
/** Set the word that every write carries. */
export function setCsrf(word: string): void {
  csrf = word
}

export const api = createClient<paths>({ baseUrl: '/' })
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRF-Token', csrf)
    return request
  },
})

const unreachable = (detail: string): Problem => ({
  type: '/problems/unreachable',
  title: 'No connection',
  status: 0,
  detail,
  instance: '',
})

/** The data of an answer, or its problem thrown. */
export async function take<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let answer
  try {
    answer = await call
  } catch {
    throw new ApiProblem(unreachable('Sorta cannot be reached just now. What you wrote is kept here; try again.'))
  }
  if (answer.error !== undefined || !answer.response.ok) {
    const problem = answer.error as Problem | undefined
    throw new ApiProblem(problem?.detail ? problem : unreachable(`The server answered ${answer.response.status}.`))
  }
  return answer.data as T
}

/** Say something by the way that the next saying replaces (how far one has read, what one is doing): it may be lost. */
export function tell(call: Promise<unknown>): void {
  call.catch((error: unknown) => {
    // Fetch's word for no connection; anything else is a mistake of ours and must show.
    if (!(error instanceof TypeError)) throw error
  })
}
