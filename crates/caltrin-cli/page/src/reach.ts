// Access to the files of the page: from the server, or embedded in a shared page.

import type { Info } from "./book";

/** How a page that was copied begins. */
export interface Opens {
  rehearsal: string | null;
  eye: string | null;
  view: "above" | "front";
  /** The length of the visible span, in seconds. */
  span: number;
  at: number;
  seed: number | null;
}

/** What a page that was copied has with it. */
interface Copied {
  state: Info;
  module: string;
  /** Sounds and pictures by the address that the server has for them, as `data:` addresses. */
  files: Record<string, string>;
  opens: Opens;
}

const own = globalThis.document?.getElementById("copied")?.textContent;
export const copied: Copied | null = own ? (JSON.parse(own) as Copied) : null;

/** What lies at an address of the server. */
export function reach(address: string, init?: RequestInit): Promise<Response> {
  if (!copied) return fetch(address, init);
  const file = copied.files[address.split("?")[0]!];
  return file ? fetch(file) : Promise.resolve(new Response(null, { status: 404 }));
}

/** The exported code of a version of the book. */
export function moduleAt(address: string): string {
  return copied ? URL.createObjectURL(new Blob([copied.module], { type: "text/javascript" })) : address;
}
