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
  /** Where the server's log has it; none when it never got there. */
  get reference(): string | null {
    return this.problem.reference ?? null
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
let member = ''
/** What every request carries: whose page it is, and with a write the session's word. */
export function setSender(id: number | null, word: string): void {
  member = id === null ? '' : String(id)
  csrf = word
}

/** What the session's keeper does when a request shows that the session is not what it was. */
interface Keeper {
  /** Ask for the session's word anew; true when it is still the same member's. */
  renew: () => Promise<boolean>
  onEnded: () => void
  onAnother: () => void
}
let keeper: Keeper | null = null
export function setKeeper(one: Keeper): void {
  keeper = one
}

async function typeOf(answer: Response): Promise<string> {
  const problem: unknown = await answer
    .clone()
    .json()
    .catch(() => null)
  return problem !== null && typeof problem === 'object' && 'type' in problem ? String(problem.type) : ''
}

/** Sends; a word that is out of date because one signed in again elsewhere is renewed, and the same is sent once more. */
async function send(request: Request): Promise<Response> {
  const isWrite = request.method !== 'GET'
  const { method, headers, signal, url } = request
  const body = isWrite && request.body ? await request.arrayBuffer() : null
  const ask = (): Promise<Response> => (isWrite ? fetch(url, { method, headers, signal, body }) : fetch(request))
  const answer = await ask()
  if (answer.status === 403 && isWrite && keeper && (await typeOf(answer)) === '/problems/not-our-page') {
    if (!(await keeper.renew())) return answer
    headers.set('X-CSRF-Token', csrf)
    return ask()
  }
  if (answer.status === 401 && !new URL(request.url).pathname.endsWith('/api/session')) keeper?.onEnded()
  if (answer.status === 409 && (await typeOf(answer)) === '/problems/another-member') keeper?.onAnother()
  return answer
}

export const api = createClient<paths>({ baseUrl: '/', fetch: send })
api.use({
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-CSRF-Token', csrf)
    if (member) request.headers.set('X-Member', member)
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
    const why = navigator.onLine ? 'Sorta cannot be reached just now.' : 'This device is offline.'
    throw new ApiProblem(unreachable(`${why} What you wrote is kept here; try again.`))
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
