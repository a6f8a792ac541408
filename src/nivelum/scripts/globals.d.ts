// What the page has beside the bundle, and the DOM as these scripts use it: what a selector finds has the fields of the
// element it asks for.
declare const htmx: any;
declare function wake(root: ParentNode): void;
declare const foretell: {
  metres(text: string, unit: string): number | null;
  amount(metres: number, unit: string): string;
  reading(metres: number, unit: string): string;
  verdict(table: any, text: string, unit: string): { standing: string; css: string; mark: string; amount: string; says: string } | null;
};

interface Element {
  value: any;
  hidden: any;
  type: any;
  content: any;
  defaultValue: any;
  dataset: any;
  formMethod: any;
}
interface Node {
  removeAttribute(name: string): void;
}
interface EventTarget {
  dataset: any;
  method: any;
  hasAttribute(name: string): boolean;
}
interface HTMLFormControlsCollection {
  [name: string]: any;
}
interface DocumentEventMap {
  "htmx:sendAbort": CustomEvent;
  "htmx:confirm": CustomEvent;
  "htmx:configRequest": CustomEvent;
  "htmx:afterRequest": CustomEvent;
}
interface Window {
  FILES: string[]; // of the worker: what every page is made of
  SAYS: Record<string, string[]>; // what in a room's query says which page it is
  skipWaiting(): Promise<void>;
}
interface Event {
  waitUntil(promise: Promise<unknown>): void;
}
interface WindowEventMap {
  silence: Event;
}
