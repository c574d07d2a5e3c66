// The report: waits until the part is judged and drawn, then shows it; prints it.

import { finished, post } from './api.js';

const root = document.getElementById('report');

if (root.dataset.made) {
  document.getElementById('print').addEventListener('click', () => window.print());
  document.documentElement.dataset.ready = 'yes';
} else {
  const say = document.getElementById('say');
  try {
    /** @type {Wire.Started_ReportResult} */
    const answer = await post(`/api/documents/${root.dataset.document}/report`);
    const job = await finished(answer.job, ({ at }) => {
      if (at) say.textContent = `${at.number ? `step ${at.number} of ${at.of}: ` : ''}${at.label} …`;
    });
    if (job.state === 'done') location.replace(`?job=${answer.job}`);
    else {
      say.textContent = [job.message, job.hint].filter(Boolean).join(' ');
      say.className = 'text-fault font-medium';
    }
  } catch (problem) {
    say.textContent = [problem.message, problem.hint].filter(Boolean).join(' ');
  }
}
