// The keys of each screen, as its page of keys lists them.

/** @type {[string, [string, string][]][]} */
const MODEL = [
  [
    'Sheet',
    [
      ['/', 'add a step; in a number that is marked whole, too'],
      ['[ and ]', 'move the standing marker'],
      ['Ctrl Z', 'undo; while picking, the last pick'],
      ['Ctrl Shift Z', 'redo'],
      ['Enter', 'keep a number; end picking'],
      ['Esc', 'one level back'],
    ],
  ],
  [
    'Picking',
    [
      ['click', 'pick, again to unpick'],
      ['Ctrl drag', 'a window: what lies wholly in it'],
      ['Ctrl Shift drag', 'a window: all that it touches'],
      ['← →', 'the next face or edge; its name is said; ↓ from a number, too'],
      ['↑ ↓', 'from faces to edges and back'],
      ['Space', 'pick the one at hand'],
      ['1 to 9', 'a plane to draw on, when one is asked for'],
      ['H', 'hide what is picked'],
    ],
  ],
  [
    'View',
    [
      ['drag', 'turn'],
      ['Shift drag', 'shift; the right button does, too'],
      ['wheel', 'nearer or farther'],
      ['F', 'fit'],
      ['V', 'drawing style'],
      ['S', 'section'],
      ['M', 'measure'],
      ['N and P', 'next and last place of an open gauge'],
    ],
  ],
];

/** @type {[string, [string, string][]][]} */
const DRAWING = [
  [
    'Tools',
    [
      ['1 to 0', 'the tools of the first row'],
      ['Shift 1 to 0', 'those of the second row'],
      ['same key again', 'the next kind of that tool'],
      ['numbers', 'the size of what is being drawn'],
      ['Tab', 'where a place or a size is typed; the next size'],
      ['Enter', 'takes what is typed, goes to what is needed next'],
      ['A', 'in a chain: line, arc that runs on, free arc'],
      ['G', 'construction'],
    ],
  ],
  [
    'Sheet',
    [
      ['letters in the foot', 'fix what is chosen'],
      ['Shift click', 'choose more'],
      ['B', 'the other way of an arc or a spline'],
      ['Del', 'erase what is chosen'],
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['Enter', 'accept; with nothing chosen, finish'],
      ['Esc', 'one level back'],
    ],
  ],
  [
    'View',
    [
      ['W or F', 'fit'],
      ['C', 'cut away what lies in front'],
      ['D', 'how each loose point can move'],
      ['T', 'all tags of what is held'],
      ['L', 'the outline alone'],
    ],
  ],
];

export function keyGroups(drawing) {
  return (drawing ? DRAWING : MODEL).map(([name, keys]) => ({
    name,
    keys: keys.map(([key, does]) => ({ key, does })),
  }));
}
