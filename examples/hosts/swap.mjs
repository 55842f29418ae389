// Hot swap in JavaScript: a run of the Ostrel lido goes on in a module that was exported after the book was changed.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to js -o generated
//     (the book is changed)
//     caltrin export crates/caltrin/books/lido.caltrin --to js --prefix changed_lido -o generated
//     node examples/hosts/swap.mjs generated/ostrel_lido.mjs generated/changed_lido.mjs

import { resolve } from "node:path";
import { pathToFileURL } from "node:url";

const [before, after] = await Promise.all(process.argv.slice(2, 4).map((file) => import(pathToFileURL(resolve(file)))));

const old = before.start(23);
before.advance(old, 1);
before.setThrottle(old, 0.95);
before.advance(old, 6);
before.fireMainsOut(old);
before.advance(old, 6.02);

// In the middle of a fade: the old module saves, the new one loads.
const next = after.start(0);
const dropped = after.load(next, before.save(old));
if (dropped === null) process.exit(1);

// What the change leaves alone gives the same light from here on, bit for bit.
const looks = (book, run) => [book.readFountain(run), book.readSiren(run), book.readTube(run, 3)].map((lamp) => lamp.intensity).join();
let same = 0;
for (let frame = 0; frame < 600; ++frame) {
  const moment = 6.02 + frame / 60;
  before.advance(old, moment);
  after.advance(next, moment);
  if (looks(before, old) === looks(after, next)) same += 1;
}
console.log(`${same} of 600 frames alike, ${dropped} dropped, ${before.layout === after.layout ? "the same" : "another"} layout`);
process.exit(same === 600 ? 0 : 1);
