// Elements of the page.

export const $ = <T extends HTMLElement = HTMLElement>(id: string): T => document.getElementById(id) as T;

/** A new element with properties and children. */
export function element<K extends keyof HTMLElementTagNameMap>(
  name: K,
  props: Partial<HTMLElementTagNameMap[K]> = {},
  ...children: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const made = Object.assign(document.createElement(name), props);
  made.append(...children);
  return made;
}

/** The same with a name for who does not see it. */
export function labeled<T extends HTMLElement>(made: T, label: string): T {
  made.setAttribute("aria-label", label);
  return made;
}

export function pressed(button: HTMLElement, on: boolean) {
  button.setAttribute("aria-pressed", String(on));
}
