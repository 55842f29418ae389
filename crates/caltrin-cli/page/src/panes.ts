// The panes of the page: each can be hidden, and the lines between them be dragged. The layout is kept for each book.

import { $, pressed } from "./dom";

export type Pane = "book" | "lanes" | "view" | "controls";

interface Layout {
  hidden: Pane[];
  /** The shares of the columns, and of the view above the controls. */
  book: number;
  lanes: number;
  view: number;
}

const FIRST: Layout = { hidden: [], book: 0.27, lanes: 0.58, view: 0.5 };
const PANES: Pane[] = ["book", "lanes", "view", "controls"];

export class Panes {
  private layout: Layout = { ...FIRST };
  private readonly name: string;

  constructor(book: string, private readonly changed: () => void) {
    this.name = `caltrin layout ${book}`;
    try {
      this.layout = { ...FIRST, ...JSON.parse(localStorage.getItem(this.name) ?? "{}") };
    } catch {
      // A layout that cannot be read is the first one.
    }
    for (const pane of PANES) $(`show-${pane}`).onclick = () => this.toggle(pane);
    this.split("split-book", "x", (x, width) => (this.layout.book = x / width));
    this.split("split-lanes", "x", (x, width) => {
      const from = this.shows("book") ? this.layout.book : 0;
      this.layout.lanes = (x / width - from) / (1 - from);
    });
    this.split("split-view", "y", (y, height) => (this.layout.view = y / height));
    this.apply();
  }

  shows(pane: Pane): boolean {
    return !this.layout.hidden.includes(pane);
  }

  toggle(pane: Pane) {
    const { hidden } = this.layout;
    if (this.shows(pane)) hidden.push(pane);
    else hidden.splice(hidden.indexOf(pane), 1);
    this.apply();
  }

  private split(id: string, axis: "x" | "y", to: (at: number, whole: number) => void) {
    const line = $(id);
    const frame = () => (axis === "x" ? $("main") : $("side")).getBoundingClientRect();
    const set = (at: number) => {
      const box = frame();
      const whole = axis === "x" ? box.width : box.height;
      to(Math.min(0.85 * whole, Math.max(0.12 * whole, at)), whole);
      this.apply();
    };
    line.onpointerdown = (event) => {
      line.setPointerCapture(event.pointerId);
      line.onpointermove = (event) => {
        const box = frame();
        set(axis === "x" ? event.clientX - box.left : event.clientY - box.top);
      };
      line.onpointerup = () => (line.onpointermove = null);
    };
    line.onkeydown = (event) => {
      const by = ({ ArrowLeft: -24, ArrowRight: 24, ArrowUp: -24, ArrowDown: 24 } as Record<string, number>)[event.key];
      if (by === undefined) return;
      event.preventDefault();
      event.stopPropagation();
      const [own, box] = [line.getBoundingClientRect(), frame()];
      set((axis === "x" ? own.left - box.left : own.top - box.top) + by);
    };
  }

  private apply() {
    const { layout } = this;
    const main = $("main");
    const side = this.shows("view") || this.shows("controls");
    const clamp = (v: number) => Math.min(0.85, Math.max(0.1, v));
    const book = this.shows("book") ? clamp(layout.book) : 0;
    const lanes = this.shows("lanes") ? (side ? clamp(layout.lanes) : 1) : 0;
    const rest = 1 - book;
    const columns = [
      ...(this.shows("book") ? [`minmax(0, ${book}fr)`, "6px"] : []),
      ...(this.shows("lanes") ? [`minmax(0, ${rest * lanes}fr)`] : []),
      ...(this.shows("lanes") && side ? ["6px"] : []),
      ...(side ? [`minmax(0, ${rest * (1 - lanes)}fr)`] : []),
    ];
    main.style.gridTemplateColumns = columns.join(" ");
    $("book").hidden = $("split-book").hidden = !this.shows("book");
    $("middle").hidden = !this.shows("lanes");
    $("split-lanes").hidden = !this.shows("lanes") || !side;
    $("side").hidden = !side;
    $("place").hidden = !this.shows("view");
    $("controls").hidden = !this.shows("controls");
    $("split-view").hidden = !this.shows("view") || !this.shows("controls");
    const view = clamp(layout.view);
    // One alone takes all of the height.
    $("place").style.flex = `${this.shows("controls") ? view : 1} 1 0`;
    $("controls").style.flex = `${this.shows("view") ? 1 - view : 1} 1 0`;
    for (const pane of PANES) pressed($(`show-${pane}`), this.shows(pane));
    const shares = [["split-book", book], ["split-lanes", book + rest * lanes], ["split-view", view]] as const;
    for (const [id, share] of shares) $(id).setAttribute("aria-valuenow", String(Math.round(100 * share)));
    localStorage.setItem(this.name, JSON.stringify(layout));
    this.changed();
  }
}
