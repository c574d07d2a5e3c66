// What one is in the middle of, one within the other: Escape leaves the last that was begun.

export class Modes {
  constructor() {
    this.__v_skip = true; // the page's reactive state must not wrap this
    this.open = [];
  }

  // Begin a mode; `leave` ends it and says so. One that is begun again comes to the top.
  enter(name, leave) {
    this.end(name);
    this.open.push({ name, leave });
  }

  // The mode has ended by itself: there is nothing to leave any more.
  end(name) {
    this.open = this.open.filter((mode) => mode.name !== name);
  }

  has(name) {
    return this.open.some((mode) => mode.name === name);
  }

  // Leave the innermost mode; false if there is none.
  back() {
    const mode = this.open.pop();
    if (mode) mode.leave();
    return Boolean(mode);
  }
}
