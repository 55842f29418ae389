// Versions that can be taken as A: the commits that changed the book, and other books; and in what B differs from A.

import { useEffect, useRef, useState } from "preact/hooks";
import type { App } from "./app";
import type { Differences, Kept } from "./kept";
import { reach } from "./reach";

interface Others {
  commits: { revision: string; day: string; words: string }[];
  books: string[];
}

/** What the server is asked for. */
export type Other = { revision: string } | { book: string };

export function OthersDialog({ take, closes }: { take: (other: Other) => void; closes: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null);
  const [others, setOthers] = useState<Others | null>(null);
  useEffect(() => {
    dialog.current?.showModal();
    void reach("/others.json").then(async (answer) => setOthers(answer.ok ? ((await answer.json()) as Others) : { commits: [], books: [] }));
  }, []);
  useEffect(() => dialog.current?.querySelector<HTMLElement>(".others button")?.focus(), [others]);
  const choose = (other: Other) => {
    closes();
    take(other);
  };
  return (
    <dialog ref={dialog} onClose={closes} aria-label="A from">
      <h2>Take as A</h2>
      {others && !others.commits.length && !others.books.length && <p>There is no earlier version in git, and no other book in this folder.</p>}
      <div class="others">
        {others?.commits.map(({ revision, day, words }) => (
          <button key={revision} onClick={() => choose({ revision })}>
            {day} {revision} {words}
          </button>
        ))}
        {others?.books.map((book) => (
          <button key={book} onClick={() => choose({ book })}>
            {book}
          </button>
        ))}
      </div>
      <button onClick={closes}>Close</button>
    </dialog>
  );
}

/** The most lights whose differences are listed. */
const MOST = 30;

interface Panel {
  app: App;
  kept: Kept;
  span: { from: number; to: number };
  rehearsal: string;
  /** Changes with every version and act. */
  version: string;
}

/** The words and figures of the differences, a moment after the last change. */
export function Differing({ app, kept, span, rehearsal, version }: Panel) {
  const [found, setFound] = useState<Differences | null>(null);
  useEffect(() => {
    let stale = false;
    const timer = setTimeout(() => {
      void kept.differences(app, span, rehearsal).then((next) => !stale && setFound(next));
    }, 400);
    return () => {
      stale = true;
      clearTimeout(timer);
    };
  }, [kept, version]);
  const same = found ? found.all - found.differ.length : 0;
  return (
    <>
      <b>{kept.name ? `A is ${kept.name}` : "A and B"}</b>
      {found && !found.differ.length && (
        <p>
          No light differs from {span.from} s to {span.to} s.
        </p>
      )}
      <ul>
        {found?.differ.slice(0, MOST).map(({ light, came, words }) => (
          <li key={light}>
            <button onClick={() => app.select(light)}>{light}</button> {came}
            {words.map((line) => (
              <p key={line}>{line}</p>
            ))}
          </li>
        ))}
      </ul>
      {found && found.differ.length > MOST && <p>and {found.differ.length - MOST} more.</p>}
      {found && found.differ.length > 0 && same > 0 && <p>{same === 1 ? "1 other light is" : `${same} other lights are`} unchanged.</p>}
    </>
  );
}
