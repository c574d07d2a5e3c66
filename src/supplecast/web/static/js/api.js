// Talks to the server: JSON in and out, problems as errors with a message and a hint, jobs awaited with their progress.

const token = /** @type {HTMLMetaElement} */ (document.querySelector('meta[name="token"]')).content;

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
  let response;
  try {
    response = await fetch(path, {
      method,
      headers: { 'X-Token': token, ...(body ? { 'Content-Type': 'application/json' } : {}) },
      body: form || (body ? JSON.stringify(body) : undefined),
    });
  } catch {
    throw new Problem('The program does not answer.', 'Check that it is still running, then try again.', 0);
  }
  if (response.ok) return response.headers.get('Content-Type').includes('json') ? response.json() : response.text();
  const answer = await response.json().catch(() => ({}));
  throw new Problem(answer.title || 'That did not work.', answer.detail, response.status, answer);
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
  for (let wait = 0.15; ; wait = 1) {
    const job = await call(`/api/jobs/${jobId}?wait=${wait}`);
    if (!['waiting', 'running'].includes(job.state)) return job;
    if (isStale()) return { ...job, state: 'stale' };
    onProgress(job);
  }
}
