// What the compiler cannot know of the page: which control an event comes from or a selector finds. The names of
// members are checked all the same; only those that some control of ours has are let through.

interface EventTarget {
  closest?(selector: string): HTMLElement | null;
  blur?(): void;
  dataset?: DOMStringMap;
  id?: string;
  textContent?: string;
  value?: any;
}

interface Element {
  blur(): void;
  focus(): void;
  setCustomValidity?(words: string): void;
  checked?: boolean;
  dataset: DOMStringMap;
  elements?: any;
  files?: FileList | null;
  form?: HTMLFormElement | null;
  select?(): void;
  selectionStart?: number | null;
  selectionEnd?: number | null;
  src?: string;
  value?: any;
}

interface Event {
  key?: string;
}

interface Window {
  compareViews: Record<string, any>; // for tests to reach the two views
}
