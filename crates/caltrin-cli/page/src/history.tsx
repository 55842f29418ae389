// What was changed since the page's server began, and earlier versions of the book.

import { useEffect, useRef, useState } from "preact/hooks";
import type { App } from "./app";
import type { Entry } from "./book";
import { reach } from "./reach";

interface Version {
  n: number;
  at: number;
  file: string;
  words: string;
}

export function HistoryDialog({ app, goTo, closes }: { app: App; goTo: (file: string, at: number) => void; closes: () => void }) {
  const [versions, setVersions] = useState<Version[] | null>(null);
  const [, redraw] = useState(0);
  const dialog = useRef<HTMLDialogElement | null>(null);
  useEffect(() => {
    dialog.current?.showModal();
    void reach("/versions.json").then(async (answer) => setVersions(answer.ok ? await answer.json() : []));
    return app.listen(() => redraw((n) => n + 1));
  }, []);
  const entries: Entry[] = app.info?.history ?? [];
  return (
    <dialog ref={dialog} class="history" aria-label="Changes" onClose={closes}>
      <div class="tools">
        <h2>Changes</h2>
        <button disabled={!app.free || !app.info?.undo} onClick={() => void app.hands.ask("/undo")}>
          Undo
        </button>
        <button disabled={!app.free || !app.info?.redo} onClick={() => void app.hands.ask("/redo")}>
          Redo
        </button>
        <button onClick={closes}>Close</button>
      </div>
      {entries.length === 0 && <p class="quiet">Nothing has been changed yet.</p>}
      <ol>
        {entries.map((entry, n) => (
          <li key={entries.length - n}>
            <button class="link" onClick={() => (closes(), goTo(entry.file, entry.at))}>
              {entry.words}
            </button>
            {!entry.own && <small> in the file</small>}
          </li>
        ))}
      </ol>
      <h2>Earlier versions</h2>
      {versions?.length === 0 && <p class="quiet">None is kept yet: one is kept for each change that is written.</p>}
      <ol>
        {versions?.map(({ n, at, file, words }) => (
          <li key={n}>
            <button disabled={!app.free} onClick={() => void app.hands.ask("/restore", { n }).then((done) => done && closes())}>
              Bring back
            </button>{" "}
            {new Date(at).toLocaleString()} {file}, before: {words}
          </li>
        ))}
      </ol>
    </dialog>
  );
}

/** Two texts that change the same place: the file's, which is shown, and the page's. */
export function RefusedDialog({ app }: { app: App }) {
  const [, redraw] = useState(0);
  useEffect(() => app.listen((what) => what === "book" && redraw((n) => n + 1)), []);
  const refused = app.info?.refused[0];
  if (!refused) return null;
  const now = app.text(refused.name)?.text ?? "";
  const [theirs, mine] = differing(now, refused.text);
  return (
    <div class="refused" role="alertdialog" aria-label={`Two versions of ${refused.name}`}>
      <p>
        Another program has changed the same place of <b>{refused.name}</b>. The file's text is shown.
      </p>
      <div class="two">
        <div>
          <b>In the file</b>
          <pre>{theirs}</pre>
        </div>
        <div>
          <b>On this page</b>
          <pre>{mine}</pre>
        </div>
      </div>
      <button onClick={() => void app.hands.ask("/settle", { file: refused.name, mine: false })}>Keep the file's</button>{" "}
      <button onClick={() => void app.hands.ask("/settle", { file: refused.name, mine: true })}>Take this page's</button>
    </div>
  );
}

/** The lines in which two texts differ. */
export function differing(one: string, other: string): [string, string] {
  const [a, b] = [one.split("\n"), other.split("\n")];
  let start = 0;
  while (start < Math.min(a.length, b.length) && a[start] === b[start]) start += 1;
  let end = 0;
  while (end < Math.min(a.length, b.length) - start && a[a.length - 1 - end] === b[b.length - 1 - end]) end += 1;
  return [a.slice(start, a.length - end).join("\n"), b.slice(start, b.length - end).join("\n")];
}
