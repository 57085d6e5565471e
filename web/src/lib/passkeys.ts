/** Passkeys in this browser: made and shown by its own interface, whose words for what went wrong are put into ours. */
import {
  browserSupportsWebAuthn,
  startAuthentication,
  startRegistration,
  WebAuthnError,
  type PublicKeyCredentialCreationOptionsJSON,
  type PublicKeyCredentialRequestOptionsJSON,
} from '@simplewebauthn/browser'

export const hasPasskeys = browserSupportsWebAuthn

/** What came of asking: what to send to the server, or why there is nothing. */
export type Shown = { credential: Record<string, unknown> } | { problem: string }

async function ask(work: () => Promise<object>): Promise<Shown> {
  try {
    return { credential: { ...(await work()) } }
  } catch (error) {
    const name = error instanceof Error ? error.name : ''
    const code = error instanceof WebAuthnError ? error.code : ''
    if (code === 'ERROR_AUTHENTICATOR_PREVIOUSLY_REGISTERED' || name === 'InvalidStateError')
      return { problem: 'This device holds a passkey of yours already.' }
    if (name === 'NotAllowedError' || name === 'AbortError')
      return {
        problem: 'Nothing came of it: it was cancelled, took too long, or this device has no passkey for Sorta.',
      }
    if (name === 'SecurityError')
      return { problem: 'Your browser does not take passkeys at this address. Open Sorta at the address it has.' }
    if (error instanceof WebAuthnError || error instanceof DOMException) return { problem: `${error.message}` }
    throw error
  }
}

/** Have this device make one. */
export const makePasskey = (options: Record<string, unknown>): Promise<Shown> =>
  ask(() => startRegistration({ optionsJSON: options as unknown as PublicKeyCredentialCreationOptionsJSON }))

/** Have this device, or one near it, show one. */
export const showPasskey = (options: Record<string, unknown>): Promise<Shown> =>
  ask(() => startAuthentication({ optionsJSON: options as unknown as PublicKeyCredentialRequestOptionsJSON }))
