// Going back and forth: undo, redo, the standing marker, and where a step may stand.

import { finished, post } from '../api.js';

/** @type {ThisType<any> & Record<string, any>} */
export const travelling = {
  // Every gap of the sheet says whether the step may stand there, and if not, why.
  async offerPlaces(step) {
    this.tell('Move:', 'trying where this step may stand …');
    try {
      /** @type {Wire.Started_PlacesResult} */
      const answer = await post(this.path('places'), { step });
      const job = await finished(answer.job);
      if (job.state !== 'done') {
        this.tell('Not done:', job.message || 'the sheet has changed meanwhile', 'fault');
        return;
      }
      for (const old of this.sheet.querySelectorAll('.place')) old.remove();
      for (const { after, why } of job.result.places) {
        const row = document.createElement('div');
        row.className = 'place';
        if (why) row.textContent = `not here: ${why}`;
        else {
          const here = Object.assign(document.createElement('button'), {
            type: 'button',
            className: 'textlink',
            textContent: 'move it here',
          });
          Object.assign(here.dataset, { place: after || '', step });
          row.append(here);
        }
        const line = after && this.sheet.querySelector(`[data-line="${CSS.escape(after)}"]`);
        if (line) line.after(row);
        else this.sheet.prepend(row);
      }
      this.sheet.querySelector('.place button')?.focus();
      this.modes.enter('moving', () => {
        for (const row of this.sheet.querySelectorAll('.place')) row.remove();
        this.tell('Ready:', 'the step stays where it is');
      });
      this.tell('Move:', 'choose a place in the sheet; Esc leaves the step where it is');
    } catch (problem) {
      this.fail(problem);
    }
  },

  async travel(way) {
    try {
      await this.chain;
      const answer = await post(this.path(way), { upto: this.standing });
      this.take(answer);
      this.tell(
        way === 'undo' ? 'Undone.' : 'Done again:',
        way === 'undo' ? 'Ctrl+Shift+Z does it again' : answer.change,
      );
      await this.follow(answer.job, { sheet: true });
    } catch (problem) {
      this.fail(problem);
    }
  },

  async undo() {
    if (this.picking && (await this.unpickLast())) return undefined;
    this.stopPickingQuietly();
    return this.sk.on ? this.sketcher.travel('undo') : this.travel('undo');
  },

  redo() {
    this.stopPickingQuietly();
    return this.sk.on ? this.sketcher.travel('redo') : this.travel('redo');
  },

  stand(step) {
    const ids = [...this.sheet.querySelectorAll('.step')].map((line) => line.dataset.line);
    this.standing = step && ids.indexOf(step) < ids.length - 1 ? step : null;
    const url = new URL(location.href);
    if (this.standing) url.searchParams.set('at', this.standing);
    else url.searchParams.delete('at');
    history.replaceState(null, '', url);
    this.sheet
      .querySelector(`[data-line="${CSS.escape(this.standing || ids.at(-1))}"]`)
      ?.scrollIntoView({ block: 'nearest' });
    this.tell(
      'Standing:',
      this.standing ? `after step ${ids.indexOf(this.standing) + 1}; ] goes on` : 'at the end of the sheet',
    );
    return this.rebuild();
  },

  moveMarker(by) {
    const ids = [...this.sheet.querySelectorAll('.step')].map((line) => line.dataset.line);
    if (!ids.length) return;
    const now = this.standing ? ids.indexOf(this.standing) : ids.length - 1;
    this.stand(ids[Math.max(0, Math.min(ids.length - 1, now + by))]);
  },
};
