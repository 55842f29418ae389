// The book pane: the text in an editor with the language services that other editors have. What is typed is part of the
// same history as what is done by hand.

import { closeBrackets, closeBracketsKeymap, completionKeymap } from "@codemirror/autocomplete";
import { defaultKeymap, indentWithTab } from "@codemirror/commands";
import { HighlightStyle, StreamLanguage, bracketMatching, codeFolding, foldGutter, foldKeymap, foldService, syntaxHighlighting } from "@codemirror/language";
import { lintGutter, lintKeymap } from "@codemirror/lint";
import { LSPClient, type Transport, hoverTooltips, renameKeymap, serverCompletion, serverDiagnostics, signatureHelp } from "@codemirror/lsp-client";
import { highlightSelectionMatches, search, searchKeymap } from "@codemirror/search";
import { type ChangeSpec, EditorSelection, EditorState, type Extension, StateEffect, StateField, Transaction } from "@codemirror/state";
import { Decoration, type DecorationSet, EditorView, ViewPlugin, type ViewUpdate, WidgetType, drawSelection, highlightActiveLine, keymap, lineNumbers } from "@codemirror/view";
import { tags } from "@lezer/highlight";
import { type App, Gesture } from "./app";
import type { Knob, Text } from "./book";
import { literalIn, turnedBy } from "./literal";
import { Offsets, declarationAt, replacement } from "./offsets";
import { copied, reach } from "./reach";

/** How long nothing is typed before it is sent, and before it is written to the file, in milliseconds. */
const PAUSE = 150;
const REST = 900;

const WORDS = new Set(
  "lightbook use seed space clock color value signal input curve behavior fitting place light spark output wall post choice hours phases sun moon event switch modes sound group sequence rehearsal rehearses gives except point spot area directional ambient every after at when above below for from to by over since starts send within is in not and or if then else on off again loop columns length tags expect".split(" "),
);

/** The words of the language by their shape; the server knows the rest. */
const language = StreamLanguage.define({
  name: "lightbook",
  token(stream) {
    if (stream.eatSpace()) return null;
    if (stream.match("//")) {
      stream.skipToEnd();
      return "comment";
    }
    if (stream.match(/^"[^"]*"?/)) return "string";
    if (stream.match(/^#[0-9a-fA-F]+/)) return "color";
    if (stream.match(/^\d[\d_]*:\d+(:\d+)?/) || stream.match(/^\d[\d_]*(\.\d+)?([eE][+-]?\d+)?[a-zA-Z%µ]*/)) return "number";
    const word = stream.match(/^[\p{L}_][\p{L}\p{N}_]*(-[a-z]+)*/u);
    if (Array.isArray(word)) return WORDS.has(word[0]!) ? "keyword" : stream.peek() === "(" ? "function" : "variableName";
    stream.next();
    return null;
  },
  languageData: { commentTokens: { line: "//" } },
  tokenTable: { color: tags.color, function: tags.function(tags.variableName) },
});

const look = HighlightStyle.define([
  { tag: tags.comment, class: "t-comment" },
  { tag: tags.string, class: "t-string" },
  { tag: tags.number, class: "t-number" },
  { tag: tags.color, class: "t-number" },
  { tag: tags.keyword, class: "t-keyword" },
  { tag: tags.function(tags.variableName), class: "t-function" },
]);

/** A swatch before a color that is written as a literal. */
class Swatch extends WidgetType {
  constructor(readonly color: string) {
    super();
  }
  override eq(other: Swatch) {
    return other.color === this.color;
  }
  toDOM() {
    const swatch = document.createElement("span");
    swatch.className = "swatch";
    swatch.setAttribute("aria-hidden", "true");
    swatch.style.setProperty("background", this.color);
    return swatch;
  }
}

const swatches = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = this.of(view);
    }
    update(update: ViewUpdate) {
      if (update.docChanged || update.viewportChanged) this.decorations = this.of(update.view);
    }
    of(view: EditorView) {
      const found = [];
      for (const { from, to } of view.visibleRanges) {
        for (const match of view.state.doc.sliceString(from, to).matchAll(/#[0-9a-fA-F]{6}\b/g)) {
          found.push(Decoration.widget({ widget: new Swatch(match[0]), side: -1 }).range(from + match.index));
        }
      }
      return Decoration.set(found);
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

/** A grip beside the number at the cursor, to turn it. */
class Turn extends WidgetType {
  constructor(
    readonly text: string,
    private readonly starts: (event: PointerEvent) => void,
  ) {
    super();
  }
  override eq(other: Turn) {
    return other.text === this.text;
  }
  override ignoreEvent() {
    return true;
  }
  toDOM() {
    const grip = document.createElement("span");
    grip.className = "turn";
    grip.setAttribute("role", "slider");
    grip.setAttribute("aria-label", `Turn ${this.text}`);
    grip.setAttribute("aria-valuenow", String(parseFloat(this.text.replace(/_/g, ""))));
    grip.setAttribute("aria-valuetext", this.text);
    grip.title = `Drag sideways to change ${this.text}, or Ctrl Up and Ctrl Down; fine with Shift`;
    grip.onpointerdown = (event) => {
      event.preventDefault();
      this.starts(event);
    };
    return grip;
  }
}

/** What is marked because it is selected elsewhere on the page. */
const marks = StateEffect.define<{ from: number; to: number } | null>();
const marked = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(value, transaction) {
    let next = value.map(transaction.changes);
    for (const effect of transaction.effects) {
      if (!effect.is(marks)) continue;
      next = effect.value && effect.value.to > effect.value.from ? Decoration.set([Decoration.mark({ class: "marked" }).range(effect.value.from, effect.value.to)]) : Decoration.none;
    }
    return next;
  },
  provide: (field) => EditorView.decorations.from(field),
});

/** Folds what stands in braces. */
const folds = foldService.of((state, from, to) => {
  const line = state.doc.sliceString(from, to);
  const code = line.split("//")[0] ?? "";
  if (!code.trimEnd().endsWith("{")) return null;
  const start = from + code.trimEnd().length;
  let depth = 1;
  const rest = state.doc.sliceString(start);
  for (let n = 0; n < rest.length; ++n) {
    if (rest[n] === "{") depth += 1;
    if (rest[n] === "}") depth -= 1;
    if (depth === 0) return { from: start, to: start + n };
  }
  return null;
});

interface Open {
  state: EditorState;
  /** The hash and the text that the server has. */
  known: Text;
}

export class TextPane {
  private readonly view: EditorView;
  private readonly open = new Map<string, Open>();
  /** The grip beside the number at the cursor. */
  private readonly turns = StateField.define<DecorationSet>({
    create: () => Decoration.none,
    update: (value, { state, docChanged, selection }) => {
      if (!docChanged && !selection) return value;
      const { main } = state.selection;
      const line = state.doc.lineAt(main.head);
      const found = this.app.free && main.empty ? literalIn(line.text, main.head - line.from) : null;
      if (!found) return Decoration.none;
      const widget = new Turn(found.text, (event) => void this.drag(event, line.from + found.from));
      return Decoration.set([Decoration.widget({ widget, side: 1 }).range(line.from + found.to)]);
    },
    provide: (field) => EditorView.decorations.from(field),
  });
  private current: string | null = null;
  private client: LSPClient | null = null;
  /** What is being typed: the gesture, and the text that it began with. */
  private typing: { gesture: string; hash: string; file: string } | null = null;
  private unsent = false;
  private timers: { send?: ReturnType<typeof setTimeout>; rest?: ReturnType<typeof setTimeout> } = {};
  formatsOnSave = false;

  constructor(
    private readonly app: App,
    parent: HTMLElement,
    private readonly tabs: HTMLElement,
    private readonly key: string,
    private readonly nonce: string,
  ) {
    this.view = new EditorView({ parent, extensions: [EditorView.cspNonce.of(nonce)] });
    app.listen((what) => (what === "book" ? this.follow() : this.show()));
    // A page that was copied has no server.
    if (!copied) void this.connect();
  }

  /** Opens the socket to the language server; it is opened again when it is lost. */
  private async connect() {
    const socket = new WebSocket(`ws://${location.host}/language?key=${this.key}`);
    const handlers = new Set<(value: string) => void>();
    socket.onmessage = (event) => handlers.forEach((handler) => handler(String(event.data)));
    const opened = await new Promise<boolean>((resolve) => {
      socket.onopen = () => resolve(true);
      socket.onerror = () => resolve(false);
    });
    socket.onclose = () => {
      this.client?.disconnect();
      this.client = null;
      setTimeout(() => void this.connect(), 2000);
    };
    if (!opened) return;
    const transport: Transport = {
      send: (message) => socket.send(message),
      subscribe: (handler) => handlers.add(handler),
      unsubscribe: (handler) => handlers.delete(handler),
    };
    const client = new LSPClient({
      extensions: [serverCompletion(), hoverTooltips(), keymap.of(renameKeymap), signatureHelp(), serverDiagnostics()],
    });
    client.connect(transport);
    await client.initializing;
    this.client = client;
    // The open texts get the services.
    for (const [file, open] of this.open) {
      const own = file === this.current ? this.view.state : open.state;
      open.state = this.state(file, own.doc.toString());
    }
    if (this.current) this.view.setState(this.open.get(this.current)!.state);
  }

  private uri(file: string): string {
    const folder = this.app.info?.folder ?? "";
    return `file://${`${folder}/${file}`.split("/").map(encodeURIComponent).join("/")}`;
  }

  private state(file: string, doc: string): EditorState {
    const app = this.app;
    const step = (path: "/undo" | "/redo") => () => {
      void this.settle().then(() => app.hands.ask(path));
      return true;
    };
    const extensions: Extension[] = [
      keymap.of([
        { key: "Mod-z", run: step("/undo"), preventDefault: true },
        { key: "Mod-y", run: step("/redo"), preventDefault: true },
        { key: "Mod-Shift-z", run: step("/redo"), preventDefault: true },
        { key: "Ctrl-ArrowUp", run: () => (void this.turn(1, false), true), shift: () => (void this.turn(1, true), true), preventDefault: true },
        { key: "Ctrl-ArrowDown", run: () => (void this.turn(-1, false), true), shift: () => (void this.turn(-1, true), true), preventDefault: true },
        { key: "Mod-s", run: () => (void this.save(), true), preventDefault: true },
        ...closeBracketsKeymap,
        ...completionKeymap,
        ...searchKeymap,
        ...foldKeymap,
        ...lintKeymap,
        ...defaultKeymap,
        indentWithTab,
      ]),
      EditorView.cspNonce.of(this.nonce),
      EditorView.contentAttributes.of({ "aria-label": `Text of ${file}`, tabindex: "0" }),
      lineNumbers(),
      foldGutter(),
      codeFolding(),
      folds,
      lintGutter(),
      drawSelection(),
      highlightActiveLine(),
      highlightSelectionMatches(),
      bracketMatching(),
      closeBrackets(),
      search({ top: true }),
      EditorState.tabSize.of(2),
      EditorState.readOnly.of(!app.free),
      language,
      syntaxHighlighting(look),
      swatches,
      marked,
      this.turns,
      EditorView.updateListener.of((update) => this.updated(update)),
    ];
    if (this.client) extensions.push(this.client.plugin(this.uri(file), "lightbook"));
    return EditorState.create({ doc, extensions });
  }

  /** Takes the texts of the book as the server has them. */
  private follow() {
    const texts = this.app.info?.texts ?? [];
    for (const text of texts) {
      const open = this.open.get(text.name);
      if (!open) {
        this.open.set(text.name, { known: text, state: this.state(text.name, text.text) });
        continue;
      }
      const shown = text.name === this.current ? this.view.state : open.state;
      const doc = shown.doc.toString();
      // What is typed and not yet sent is newer than what the server tells.
      if (this.unsent && this.typing?.file === text.name) continue;
      open.known = text;
      const change = replacement(doc, text.text);
      if (!change) continue;
      const spec: { changes: ChangeSpec; annotations: ReturnType<typeof Transaction.remote.of> } = { changes: change, annotations: Transaction.remote.of(true) };
      if (text.name === this.current) this.view.dispatch(spec);
      else open.state = open.state.update(spec).state;
    }
    for (const file of [...this.open.keys()]) if (!texts.some(({ name }) => name === file)) this.open.delete(file);
    if (this.current === null || !this.open.has(this.current)) this.turnTo(texts[0]?.name ?? null);
    this.drawTabs();
  }

  private turnTo(file: string | null) {
    if (file === this.current || file === null) return;
    const open = this.open.get(file);
    if (!open) return;
    const before = this.current === null ? undefined : this.open.get(this.current);
    if (before) before.state = this.view.state;
    this.current = file;
    this.view.setState(open.state);
    this.drawTabs();
  }

  private drawTabs() {
    const files = [...this.open.keys()];
    this.tabs.hidden = files.length < 2;
    this.tabs.replaceChildren(
      ...files.map((file) => {
        const tab = document.createElement("button");
        tab.textContent = file;
        tab.setAttribute("role", "tab");
        tab.setAttribute("aria-selected", String(file === this.current));
        tab.onclick = () => this.turnTo(file);
        return tab;
      }),
    );
  }

  /** Marks what is selected elsewhere. */
  private show() {
    const { marked: place } = this.app;
    if (!place) return;
    this.turnTo(place.file);
    const open = this.open.get(place.file);
    if (!open || this.current !== place.file) return;
    const offsets = new Offsets(open.known.text);
    const length = this.view.state.doc.length;
    const from = Math.min(length, offsets.unit(place.at[0]));
    const to = Math.min(length, offsets.unit(place.at[1]));
    this.view.dispatch({ effects: [marks.of({ from, to }), EditorView.scrollIntoView(EditorSelection.range(from, to), { y: "center" })] });
  }

  private updated(update: ViewUpdate) {
    const remote = update.transactions.some((transaction) => transaction.annotation(Transaction.remote));
    if (update.docChanged && !remote) this.typed();
    // A click into a declaration selects it elsewhere.
    if (update.selectionSet && update.transactions.some((transaction) => transaction.isUserEvent("select.pointer"))) {
      const name = declarationAt(update.state.doc.toString(), update.state.selection.main.head);
      if (name && name !== this.app.selected?.name) this.app.select(name);
    }
  }

  private typed() {
    const file = this.current;
    const open = file === null ? undefined : this.open.get(file);
    if (!file || !open) return;
    this.typing ??= { gesture: this.app.hands.gesture(), hash: open.known.hash, file };
    this.unsent = true;
    clearTimeout(this.timers.send);
    clearTimeout(this.timers.rest);
    this.timers.send = setTimeout(() => void this.send(), PAUSE);
    this.timers.rest = setTimeout(() => void this.settle(), REST);
  }

  private async send() {
    const typing = this.typing;
    if (!typing || !this.unsent) return;
    this.unsent = false;
    clearTimeout(this.timers.send);
    const to = this.view.state.doc.toString();
    const line = this.view.state.doc.lineAt(this.view.state.selection.main.head).number;
    await this.app.hands.edit({ file: typing.file, hash: typing.hash, gesture: typing.gesture, words: `typed in line ${line}`, ops: [{ text: { to } }] });
  }

  /** Sends what is typed; it is then written to the file. */
  async settle() {
    if (!this.typing) return;
    clearTimeout(this.timers.rest);
    await this.send();
    this.typing = null;
    await this.app.hands.rests();
  }

  /** The literal at a place of the open text, as the server knows it. */
  private async literal(place: number): Promise<{ knob: Knob; hash: string } | null> {
    const file = this.current;
    await this.settle();
    const open = file === null ? undefined : this.open.get(file);
    if (!file || !open) return null;
    const byte = new TextEncoder().encode(this.view.state.doc.sliceString(0, place)).length;
    const answer = await reach(`/literal.json?${new URLSearchParams({ file, at: String(byte) })}`);
    if (!answer.ok) return null;
    const { literal, hash }: { literal: Knob | null; hash: string } = await answer.json();
    return literal && { knob: literal, hash };
  }

  /** Turns the number at the cursor by steps. */
  private async turn(steps: number, fine: boolean) {
    const { state } = this.view;
    const line = state.doc.lineAt(state.selection.main.head);
    const at = literalIn(line.text, state.selection.main.head - line.from);
    const found = at && this.app.free ? await this.literal(line.from + at.from) : null;
    const turned = found && turnedBy(found.knob, steps, fine);
    if (!found || !turned) return;
    await this.app.hands.edit({ file: found.knob.file ?? "", hash: found.hash, ...turned, rests: true });
  }

  /** Turns a number with the pointer: the grip may be drawn again meanwhile, so the window has the movements. */
  private async drag(event: PointerEvent, place: number) {
    const asked = this.literal(place);
    let gesture: Gesture | null = null;
    let last = event;
    const move = async (next: PointerEvent) => {
      last = next;
      const found = await asked;
      if (!found || next !== last) return;
      const turned = turnedBy(found.knob, Math.round((next.clientX - event.clientX) / 4), next.shiftKey);
      if (!turned || (!gesture && Math.abs(next.clientX - event.clientX) < 4)) return;
      gesture ??= new Gesture(this.app, found.knob.file ?? "", found.hash);
      gesture.to(turned.words, turned.ops);
    };
    const done = async () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", done);
      removeEventListener("pointercancel", done);
      await asked;
      await gesture?.ends();
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", done);
    addEventListener("pointercancel", done);
  }

  private async save() {
    await this.settle();
    const text = this.current === null ? undefined : this.app.text(this.current);
    if (this.formatsOnSave && text) await this.app.do(text.name, "formatted", [{ format: {} }]);
  }

  focus() {
    this.view.focus();
  }

  /** Goes to a byte of a file. */
  goTo(file: string, at: number) {
    this.turnTo(file);
    const open = this.open.get(file);
    if (!open) return;
    const place = Math.min(this.view.state.doc.length, new Offsets(open.known.text).unit(at));
    this.view.dispatch({ selection: { anchor: place }, effects: EditorView.scrollIntoView(place, { y: "center" }) });
    this.view.focus();
  }
}
