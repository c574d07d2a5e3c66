// Handoff: choose bodies and a format, write files, take them away.

import Alpine from 'alpine';
import { COLOURS, UNITS } from './facts.js';
import { exactly, fixed, weighed } from './numbers.js';
import { Problem, finished, post } from './api.js';

const WHAT = {
  part: 'part',
  linked: 'part at cavity size',
  shot: 'part with its feed',
  cavity: 'cavity half',
  core: 'core half',
  feed: 'feed',
  block: 'block',
  insert: 'insert',
  molded: 'part at cavity size',
  'cavity insert': 'cavity insert',
  'core insert': 'core insert',
  slide: 'slide in the cavity half',
  'core slide': 'slide on the core half',
  'core pin': 'core pin',
  lifter: 'lifter',
  stripper: 'stripper',
  ejector: 'ejector',
  'fixed base': 'mold base, fixed side',
  'moving base': 'mold base, moving side',
  ejection: 'ejector plates and what moves with them',
  surface: 'surface',
  mesh: 'mesh',
  neighbour: 'neighbour in an assembly',
};

Alpine.data('handoff', () => ({
  bodies: [],
  files: [],
  format: 'step',
  tolerance: '0.02',
  separate: false,
  writing: false,
  fault: '',
  empty: 'Building …',
  lead: 'Handoff:',
  say: 'choose bodies and a format',

  get wanted() {
    return this.bodies.filter((body) => body.wanted).length;
  },
  get label() {
    return this.writing ? 'Writing …' : this.separate && this.wanted > 1 ? `Write ${this.wanted} files` : 'Write file';
  },

  async init() {
    this.id = this.$el.dataset.document;
    this.name = this.$el.dataset.name;
    this.unit = this.$el.dataset.unit;
    const linked = this.$el.dataset.kind === 'part' ? 'linked body' : WHAT.linked;
    try {
      /** @type {Wire.RevisionAnswer_BuildResult} */
      const answer = await post(`/api/documents/${this.id}/build`, { exact: true });
      const job = await finished(answer.job, ({ at }) => {
        if (at) this.empty = at.number ? `Building step ${at.number} of ${at.of}: ${at.label}` : at.label;
      });
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      const bad = job.result.steps.find((step) => step.status === 'failed');
      if (bad) this.fault = `The document does not build yet. ${bad.message}`;
      this.bodies = job.result.bodies
        .filter((body) => !body.stale)
        .map((body) => ({
          id: body.id,
          name: body.name,
          what: body.role === 'linked' ? linked : WHAT[body.role],
          style: { background: COLOURS[body.role] },
          wanted: !['linked', 'molded', 'feed', 'neighbour'].includes(body.role) || job.result.bodies.length === 1,
          size: body.high.map((h, i) => fixed((h - body.low[i]) / UNITS[this.unit], 3)).join(' × '),
          volume: exactly(body.volume / UNITS[{ mm: 'cm' }[this.unit] || this.unit] ** 3, 2),
          mass:
            body.mass && ['part', 'linked', 'molded', 'shot', 'feed'].includes(body.role)
              ? weighed(body.mass, this.unit)
              : '–',
        }));
      if (!this.bodies.length) this.empty = 'There is no body yet. Build one first.';
    } catch (problem) {
      this.fail(problem);
    }
    document.documentElement.dataset.ready = 'yes';
  },

  fail(problem) {
    if (!(problem instanceof Problem)) throw problem;
    this.fault = [problem.message, problem.hint].filter(Boolean).join(' ');
  },

  toggle(id) {
    const body = this.bodies.find((one) => one.id === id);
    body.wanted = !body.wanted;
  },

  async write() {
    this.writing = true;
    this.fault = '';
    const wanted = this.bodies.filter((body) => body.wanted).map((body) => body.id);
    const groups = this.separate ? wanted.map((id) => [id]) : [wanted];
    try {
      for (const bodies of groups) {
        this.say = `writing ${this.format.toUpperCase()} …`;
        /** @type {Wire.Started_WrittenFile} */
        const answer = await post(`/api/documents/${this.id}/exports`, {
          format: this.format,
          bodies,
          tolerance: this.tolerance,
        });
        const job = await finished(answer.job);
        if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
        const { blob, name, bytes } = job.result;
        this.files.unshift({
          href: `/api/blobs/${blob}?as=${encodeURIComponent(name)}`,
          name,
          size: bytes > 1e6 ? `${exactly(bytes / 1e6, 1)} MB` : `${Math.ceil(bytes / 1000)} kB`,
        });
        this.say = `${name} is ready: click it to take it away`;
      }
    } catch (problem) {
      this.fail(problem);
      this.say = 'nothing was written';
    } finally {
      this.writing = false;
    }
  },
}));

Alpine.start();
