// What one looks at is kept with the person, in the browser: it is no change of the document, and nothing to be undone.

export class Seen {
  /** @param {string} id of the document */
  constructor(id) {
    this.__v_skip = true;
    this.key = `supplecast.seen.${id}`;
    try {
      this.held = JSON.parse(localStorage.getItem(this.key) || '{}');
    } catch {
      this.held = {}; // what can not be read is as good as nothing
    }
  }

  // Whether a thing is shown, by its key such as `body/e2`; `usual` where the person has said nothing.
  shown(key, usual = true) {
    return this.held[key] ?? usual;
  }

  set(keys, shown) {
    for (const key of keys) this.held[key] = shown;
    try {
      localStorage.setItem(this.key, JSON.stringify(this.held));
    } catch {
      // a browser that keeps nothing still shows and hides while the page is open
    }
  }
}
