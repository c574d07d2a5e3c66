// Talks to the server: JSON in and out, problems as errors with a message and a hint, jobs awaited with their progress.

let token = /** @type {HTMLMetaElement} */ (document.querySelector('meta[name="token"]')).content;
const LARGEST = 64 * 2 ** 20;

export class Problem extends Error {
  /** @param {any} [answer] */
  constructor(message, hint, status, answer = {}) {
    super(message);
    this.answer = answer;
    this.hint = hint || '';
    this.status = status;
  }
}

/**
 * @param {string} path
 * @param {{ method?: string, body?: any, form?: FormData }} [more]
 * @returns {Promise<any>}
 */
export async function call(path, { method = 'GET', body, form } = {}) {
  const ask = () =>
    fetch(path, {
      method,
      headers: { 'X-Token': token, ...(body ? { 'Content-Type': 'application/json' } : {}) },
      body: form || (body ? JSON.stringify(body) : undefined),
    });
  refuseLarge(form);
  let response;
  let answer = {};
  try {
    response = await ask();
    if (!response.ok) answer = await response.json().catch(() => ({}));
    if (answer.stale && (await renewed())) {
      response = await ask();
      if (!response.ok) answer = await response.json().catch(() => ({}));
    }
  } catch {
    throw new Problem('The program does not answer.', 'Check that it is still running, then try again.', 0);
  }
  if (response.ok) return response.headers.get('Content-Type').includes('json') ? response.json() : response.text();
  throw new Problem(answer.title || 'That did not work.', answer.detail, response.status, answer);
}

// Files that would be refused anyway are not sent at all.
function refuseLarge(form) {
  for (const value of form ? form.values() : []) {
    if (value instanceof File && value.size > LARGEST) {
      throw new Problem(`“${value.name}” is larger than 64 MB.`, 'Save it smaller, or send only what is needed.', 413);
    }
  }
}

/** @type {Promise<string> | null} */
let renewing = null;

/** A new token where this page's is old: after a month, another clock, or another program in between. One for all who ask. */
export const renewed = () => (renewing ??= fetchToken().finally(() => (renewing = null)));

async function fetchToken() {
  const response = await fetch('/token');
  if (response.ok) token = (await response.json()).token;
  return response.ok ? token : '';
}

export const post = (path, body = {}) => call(path, { method: 'POST', body });

export const send = (path, form) => call(path, { method: 'POST', form });

/**
 * Resolves with the ended job. `onProgress` hears of steps on the way; `isStale` may give up waiting.
 *
 * @template Result
 * @param {Wire.Job<Result>} jobId
 * @param {(running: Wire.JobAnswer) => void} [onProgress]
 * @returns {Promise<Omit<Wire.JobAnswer, 'result' | 'state'> & { result: Result, state: string }>}
 */
export async function finished(jobId, onProgress = () => {}, isStale = () => false) {
  for (let wait = 0.15; ; wait = Math.min(1, 1.5 * wait)) {
    const asked = performance.now();
    const job = await call(`/api/jobs/${jobId}?wait=${wait}`);
    if (!['waiting', 'running'].includes(job.state)) return job;
    if (isStale()) return { ...job, state: 'stale' };
    onProgress(job);
    // Where many wait, the server answers at once: then the waiting is done here.
    const early = wait * 1000 - (performance.now() - asked);
    if (early > 100) await new Promise((resume) => setTimeout(resume, Math.min(early, 500)));
  }
}
