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

// Where the view looks from, by its names: yaw and pitch in rad (as `view/camera.js` has them).
const QUARTER = Math.PI / 2;
const VIEWS = {
  oblique: [-0.62, 0.62],
  top: [0, QUARTER],
  bottom: [0, -QUARTER],
  front: [0, 0],
  right: [QUARTER, 0],
  back: [Math.PI, 0],
  left: [-QUARTER, 0],
};
const STILLS = ['1280 × 800', '1920 × 1200', '2560 × 1600', '3840 × 2400', '2000 × 2000'];
const FILMS = ['640 × 400', '960 × 600', '720 × 720', '1280 × 800'];

// Where the model was last looked at from on its workbench; null where that is not known.
function lastSeen(id) {
  try {
    return JSON.parse(localStorage.getItem(`supplecast.eye.${id}`));
  } catch {
    return null;
  }
}

Alpine.data('handoff', () => ({
  bodies: [],
  files: [],
  format: 'step',
  tolerance: '0.02',
  separate: false,
  writing: false,
  fault: '',
  empty: 'Building …',
  shot: {
    view: 'oblique',
    here: null,
    film: 'png',
    size: '1280 × 800',
    background: 'bench',
    apart: 0,
    through: false,
    shown: '',
    name: '',
  },
  lead: 'Handoff:',
  say: 'choose bodies and a format',

  get wanted() {
    return this.bodies.filter((body) => body.wanted).length;
  },
  get label() {
    return this.writing ? 'Writing …' : this.separate && this.wanted > 1 ? `Write ${this.wanted} files` : 'Write file';
  },

  get sizes() {
    return this.shot.film === 'png' ? STILLS : FILMS;
  },
  get shotLabel() {
    return this.writing ? 'Working …' : this.shot.film === 'png' ? 'Make the picture' : 'Make the film';
  },

  async init() {
    this.id = this.$el.dataset.document;
    this.shot.here = lastSeen(this.id);
    if (this.shot.here) Object.assign(this.shot, { view: 'here', background: this.shot.here.background || 'bench' });
    this.$watch('shot.film', (film) => (this.shot.size = film === 'png' ? STILLS[0] : FILMS[0]));
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
          style: { background: body.finish?.colour || body.look.colour || COLOURS[body.role] },
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

  // A picture, or a film that turns once round, of the document in what it wears.
  async shoot() {
    const { view, here, film, size, background, apart, through } = this.shot;
    const [yaw, pitch] = view === 'here' ? [here.yaw, here.pitch] : VIEWS[view];
    const [width, height] = size.split(' × ').map(Number);
    this.writing = true;
    this.fault = '';
    this.say = film === 'png' ? 'drawing the picture …' : 'drawing the film …';
    try {
      /** @type {Wire.Started_WrittenFile} */
      const answer = await post(`/api/documents/${this.id}/shots`, {
        width,
        height,
        yaw,
        pitch,
        background,
        film,
        see_through: through,
        apart: apart / 100,
      });
      const job = await finished(answer.job, ({ at }) => {
        if (at?.number) this.say = `drawing picture ${at.number} of ${at.of}`;
      });
      if (job.state !== 'done') throw new Problem(job.message, job.hint, 422);
      this.offer(job.result);
      Object.assign(this.shot, { shown: `/api/blobs/${job.result.blob}`, name: job.result.name });
    } catch (problem) {
      this.fail(problem);
      this.say = 'nothing was drawn';
    } finally {
      this.writing = false;
    }
  },

  // Put a written file on the list of those to take away.
  offer({ blob, name, bytes }) {
    this.files.unshift({
      href: `/api/blobs/${blob}?as=${encodeURIComponent(name)}`,
      name,
      size: bytes > 1e6 ? `${exactly(bytes / 1e6, 1)} MB` : `${Math.ceil(bytes / 1000)} kB`,
    });
    this.say = `${name} is ready: click it to take it away`;
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
        this.offer(job.result);
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
