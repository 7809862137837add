import type { components } from './types';

export type SessionView = components['schemas']['SessionView'];

/** An error in the server's words: what, where, and what to do. `status` is the server's answer, 0 where it gave none; `job` is one that
 * has first to be done, after which the same may be asked again. */
export class Fault extends Error {
  readonly status: number;
  readonly job: string | null;
  constructor(message: string, status = 0, job: string | null = null) {
    super(message);
    this.status = status;
    this.job = job;
  }
}

async function answer<T>(response: Response): Promise<T> {
  if (response.status === 204) return undefined as T;
  const body: unknown = await response.json().catch(() => null);
  if (response.ok) return body as T;
  const { detail, job } = (body ?? {}) as { detail?: string; job?: string };
  throw new Fault(
    detail ?? `the server answered ${response.status}; try again`,
    response.status,
    job ?? null,
  );
}

/** The session, requested once; `forget` clears it. */
let known: Promise<SessionView> | null = null;
let token: string | null | undefined; // undefined until it was asked for
export const session = (): Promise<SessionView> =>
  (known ??= send<SessionView>('/session', { method: 'GET' }).then((found) => {
    token = found.token;
    return found;
  }));
export const forget = () => {
  known = null;
  token = undefined;
};

/** Listeners for answers that require signing in. */
const listeners = new Set<() => void>();
export function onSignedOut(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

async function send<T>(path: string, init: RequestInit): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch (error) {
    if (init.signal?.aborted) throw error;
    throw new Fault('the server does not answer (is Kalendor still running?)');
  }
  return answer<T>(response);
}

const READS = ['GET', 'HEAD'];
const SESSION = '/session';

/** Sends a request; changes include the session's token, which is refreshed if it belongs to another session. */
export async function asked<T>(path: string, init: RequestInit & { method: string }): Promise<T> {
  try {
    if (READS.includes(init.method)) return await send<T>(path, init);
    const bearing = token === undefined ? await borne(init) : withToken(init, token); // sent at once where it can be
    const tried = await send<T>(path, bearing).catch((fault: unknown) => {
      if (fault instanceof Fault && fault.status === 403 && fault.message.includes('another session'))
        return AGAIN;
      throw fault;
    });
    if (tried !== AGAIN) return tried as T;
    forget();
    return await send<T>(path, await borne(init));
  } catch (fault) {
    if (fault instanceof Fault && fault.status === 401 && path !== SESSION) {
      forget();
      listeners.forEach((listener) => listener());
    }
    throw fault;
  }
}

const AGAIN = Symbol('again');

async function borne(init: RequestInit): Promise<RequestInit> {
  return withToken(init, (await session()).token);
}

const withToken = (init: RequestInit, token: string | null): RequestInit =>
  token ? { ...init, headers: { ...(init.headers ?? {}), 'X-Kalendor-Token': token } } : init;
