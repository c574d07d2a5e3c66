// Measuring in the view: one or two picks, what they measure, and keeping that as a step.

import { finished, post } from '../api.js';

// Things hit in the view as they are lit there.
export const marked = (items) =>
  items.map(({ body, face, edge }) => ({
    body,
    faces: face === undefined ? [] : [face],
    edges: edge === undefined ? [] : [edge],
  }));

export class Measuring {
  constructor(bench) {
    this.__v_skip = true;
    this.bench = bench;
    this.items = [];
    this.picks = [];
  }

  start() {
    const { bench } = this;
    bench.measuring = true;
    bench.modes.enter('measuring', () => this.stop());
    this.clear();
    bench.tell('Measure:', 'click a face, an edge or a corner; a second one gives the distance between them; Esc ends');
  }

  clear() {
    this.items = [];
    this.picks = [];
    this.bench.measures = [];
    this.bench.viewer.overlay.light([]);
    this.bench.viewer.overlay.setLines([]);
  }

  stop() {
    this.clear();
    this.bench.measuring = false;
    this.bench.modes.end('measuring');
    this.bench.tell('Ready:', 'measuring has ended');
  }

  async picked(hit) {
    if (!hit) return;
    const { bench } = this;
    this.items = this.items.length === 2 ? [hit] : [...this.items, hit];
    bench.viewer.overlay.light(marked(this.items));
    const asked = this.items;
    /** @type {Wire.Started_Measured} */
    const answer = await post(bench.path('measures'), { picked: asked, upto: bench.standing });
    const job = await finished(answer.job);
    if (asked !== this.items || !bench.measuring) return;
    if (job.state !== 'done') {
      this.clear();
      bench.tell('Not measured:', [job.message, job.hint].filter(Boolean).join(' '), 'fault');
      return;
    }
    const { figures, line, picks } = job.result;
    this.picks = picks;
    bench.measures = figures.filter((f) => !f.name.startsWith('along') || f.value > 1e-9);
    bench.viewer.overlay.setLines(line ? [line] : []);
    bench.tell(
      'Measure:',
      asked.length === 1
        ? 'click a second thing for the distance, or keep it'
        : 'click another thing to begin anew, or keep it',
    );
  }

  async keep() {
    const picks = this.picks;
    this.stop();
    await this.bench.edit({ op: 'add', type: 'measure', after: this.bench.standing, values: { of: picks } });
  }
}
