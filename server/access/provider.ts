import { and, eq, isNull } from 'drizzle-orm'
import { clearSession, getRequestURL, getSession, updateSession, type H3Event } from 'h3'
import * as oidc from 'openid-client'
import { config } from '../config'
import type { Database } from '../database/client'
import { accounts } from '../database/access-schema'
import { isLoopback } from '../hosts'
import { ACCOUNT, type Account } from './accounts'
import { publicAddress } from './links'
import { serverSecret } from './secrets'

/** Where the provider sends people back to. */
const BACK = '/sign-in/provider/back'
const MINUTES = 10

/** What is kept of a sign-in while the provider asks who it is. */
interface Begun {
  readonly verifier: string
  readonly state: string
  readonly nonce: string
  readonly to: string
}

let known: Promise<oidc.Configuration> | undefined

/** What the provider says of itself (OpenID Connect Discovery); only loopback may do without TLS. */
function provider(): Promise<oidc.Configuration> {
  const { SALT_TRAIL_PROVIDER: issuer, SALT_TRAIL_PROVIDER_CLIENT: client } = config()
  if (issuer === undefined || client === undefined)
    return Promise.reject(new Error('no sign-in provider is set'))
  const url = new URL(issuer)
  const insecure = url.protocol === 'http:' && isLoopback(url.hostname)
  known ??= oidc
    .discovery(url, client, config().SALT_TRAIL_PROVIDER_SECRET, undefined, {
      timeout: 10,
      ...(insecure ? { execute: [oidc.allowInsecureRequests] } : {}),
    })
    .catch((error: unknown) => {
      // The provider may be back for the next one.
      known = undefined
      throw error
    })
  return known
}

/** The cookie comes back from a page elsewhere, so it is less strict than that of a session. */
const cookie = async (db: Database) => ({
  name: 'salt-trail-provider',
  password: await serverSecret(db, 'cookies'),
  sessionHeader: false as const,
  maxAge: MINUTES * 60,
  cookie: {
    httpOnly: true,
    sameSite: 'lax' as const,
    secure: config().SALT_TRAIL_ADDRESS?.startsWith('https:') ?? false,
    path: '/sign-in',
  },
})

/** Where a browser is led to sign in; `to` is where it wants to be afterwards. */
export async function beginAtProvider(db: Database, event: H3Event, to: string): Promise<string> {
  const at = await provider()
  const verifier = oidc.randomPKCECodeVerifier()
  const begun: Begun = { verifier, state: oidc.randomState(), nonce: oidc.randomNonce(), to }
  await updateSession(event, await cookie(db), { ...begun })
  return oidc.buildAuthorizationUrl(at, {
    redirect_uri: `${publicAddress()}${BACK}`,
    scope: 'openid email profile',
    code_challenge: await oidc.calculatePKCECodeChallenge(verifier),
    code_challenge_method: 'S256',
    state: begun.state,
    nonce: begun.nonce,
  }).href
}

/**
 * Whom the provider names, and where he wants to be: the account that it named before, or the one
 * that was invited under the address it vouches for. Null where nobody invited him.
 */
export async function endAtProvider(
  db: Database,
  event: H3Event,
): Promise<{ account: Account | null; to: string }> {
  const kept = await cookie(db)
  const { data } = await getSession<Partial<Begun>>(event, kept)
  await clearSession(event, kept)
  const { verifier, state, nonce, to = '/' } = data
  if (verifier === undefined || state === undefined || nonce === undefined)
    throw new Error('no sign-in by the provider was begun here')
  const back = new URL(`${publicAddress()}${BACK}`)
  back.search = getRequestURL(event).search
  const answered = await oidc.authorizationCodeGrant(await provider(), back, {
    pkceCodeVerifier: verifier,
    expectedState: state,
    expectedNonce: nonce,
    idTokenExpected: true,
  })
  const { iss, sub, email, email_verified: isVerified } = answered.claims()!
  const invited = typeof email === 'string' && isVerified === true ? email.toLowerCase() : null
  return { account: await accountOf(db, { issuer: iss, subject: sub }, invited), to }
}

async function accountOf(
  db: Database,
  who: { readonly issuer: string; readonly subject: string },
  login: string | null,
): Promise<Account | null> {
  const isIn = eq(accounts.isDisabled, false)
  const named = and(eq(accounts.issuer, who.issuer), eq(accounts.subject, who.subject), isIn)
  const [row] = await db.select(ACCOUNT).from(accounts).where(named)
  if (row || login === null) return row ?? null
  const unbound = and(eq(accounts.login, login), isNull(accounts.subject), isIn)
  const [bound] = await db.update(accounts).set(who).where(unbound).returning(ACCOUNT)
  return bound ?? null
}
