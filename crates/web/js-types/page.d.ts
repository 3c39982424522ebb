// What the page's scripts may take for granted, for the type checker alone: nothing of it is shipped.
//
// Most of what scripts seek are controls, so that is what a selector finds; where it is another
// element, the place that seeks it says so.

interface ParentNode {
  querySelector<E extends Element = HTMLInputElement>(selectors: string): E | null;
  querySelectorAll<E extends Element = HTMLInputElement>(selectors: string): NodeListOf<E>;
}

interface Element {
  closest<E extends Element = HTMLInputElement>(selectors: string): E | null;
}

interface Document {
  getElementById(id: string): HTMLInputElement | null;
}

/** Controls of a form by their names. */
interface HTMLFormControlsCollection {
  readonly [name: string]: any;
}

interface Window {
  /** The library that swaps parts of the page; it has no types of its own. */
  htmx: any;
}
