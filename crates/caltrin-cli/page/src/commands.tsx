// A list of everything that the page can do, to be searched, and the keys for it.

import { useEffect, useRef, useState } from "preact/hooks";

export interface Command {
  name: string;
  /** The key that does it, as it is shown. */
  key?: string;
  /** Whether the key also works where text is typed. */
  always?: boolean;
  do(): void;
}

/** The name of a key press, such as `Ctrl Shift z`. */
export function keyName(event: KeyboardEvent): string {
  const held = [event.ctrlKey || event.metaKey ? "Ctrl" : "", event.altKey ? "Alt" : "", event.shiftKey && event.key.length > 1 ? "Shift" : ""];
  const key = event.key === " " ? "Space" : event.key;
  const shifted = event.shiftKey && event.key.length === 1 && (event.ctrlKey || event.metaKey) ? ["Shift"] : [];
  return [...held, ...shifted, key.length === 1 ? key.toLowerCase() : key].filter(Boolean).join(" ");
}

/** Commands whose words begin with, or contain, what is searched. */
export function found(commands: Command[], search: string): Command[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return commands.filter(({ name }) => words.every((word) => name.toLowerCase().includes(word)));
}

export function CommandList({ commands, closes }: { commands: Command[]; closes: () => void }) {
  const [search, setSearch] = useState("");
  const [at, setAt] = useState(0);
  const dialog = useRef<HTMLDialogElement | null>(null);
  useEffect(() => dialog.current?.showModal(), []);
  const list = found(commands, search);
  const run = (command: Command | undefined) => {
    closes();
    command?.do();
  };
  return (
    <dialog ref={dialog} class="commands" aria-label="Commands" onClose={closes}>
      <input
        type="text"
        placeholder="What to do"
        aria-label="Search commands"
        role="combobox"
        aria-expanded="true"
        aria-controls="command-list"
        aria-activedescendant={list[at] ? `command-${at}` : undefined}
        value={search}
        onInput={(event) => (setSearch(event.currentTarget.value), setAt(0))}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "ArrowDown") setAt(Math.min(list.length - 1, at + 1));
          else if (event.key === "ArrowUp") setAt(Math.max(0, at - 1));
          else if (event.key === "Enter") run(list[at]);
          else return;
          event.preventDefault();
        }}
      />
      <ul id="command-list" role="listbox" aria-label="Commands">
        {list.map((command, n) => (
          <li key={command.name} id={`command-${n}`} role="option" aria-selected={n === at} onClick={() => run(command)} ref={(row) => void (n === at && row?.scrollIntoView({ block: "nearest" }))}>
            <span>{command.name}</span>
            {command.key && <kbd>{command.key}</kbd>}
          </li>
        ))}
      </ul>
    </dialog>
  );
}
