import assert from 'node:assert/strict';
import test from 'node:test';

import { Modes } from '../../src/supplecast/web/static/js/bench/modes.js';
import { compose } from '../../src/supplecast/web/static/js/bench/compose.js';

test('Escape leaves the mode begun last, and each once', () => {
  const left = [];
  const modes = new Modes();
  for (const name of ['cut', 'measuring', 'picking']) modes.enter(name, () => left.push(name));
  assert.equal(modes.back(), true);
  assert.deepEqual(left, ['picking']);
  assert.equal(modes.back() && modes.back(), true);
  assert.deepEqual(left, ['picking', 'measuring', 'cut']);
  assert.equal(modes.back(), false);
});

test('a mode that ended by itself is not left again', () => {
  const modes = new Modes();
  modes.enter('trying', () => assert.fail('left twice'));
  modes.end('trying');
  assert.equal(modes.has('trying'), false);
  assert.equal(modes.back(), false);
});

test('a mode begun anew comes to the top with its new way out', () => {
  const left = [];
  const modes = new Modes();
  modes.enter('shown', () => left.push('old'));
  modes.enter('cut', () => left.push('cut'));
  modes.enter('shown', () => left.push('new'));
  while (modes.back());
  assert.deepEqual(left, ['new', 'cut']);
});

test('leaving a mode may begin another', () => {
  const modes = new Modes();
  modes.enter('first', () => modes.enter('second', () => {}));
  modes.back();
  assert.equal(modes.has('second'), true);
});

test('parts put together keep their getters alive', () => {
  const whole = compose(
    { count: 1, once: () => 'a' },
    {
      get double() {
        return this.count * 2;
      },
    },
  );
  whole.count = 21;
  assert.equal(whole.double, 42);
  assert.equal(whole.once(), 'a');
});
