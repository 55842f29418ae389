// A bare host of the Ostrel lido in TypeScript: frames of uneven length and a hitch, events out of order, a save and a load.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to ts -o generated
//     cp examples/hosts/lido.mts generated && cd generated
//     tsc --strict --target es2022 --module nodenext --moduleResolution nodenext lido.mts && node lido.mjs

import * as lido from "./ostrel_lido.mjs";
import type { Run, Star } from "./ostrel_lido.mjs";

declare const console: { log(line: string): void };

const stars: Star[] = Array.from({ length: 8 }, () => lido.readStar(lido.start(0), 0));

/** What is seen from the basin. */
function look(run: Run): number {
  lido.fillStar(run, 0, stars);
  const single = lido.readFountain(run).intensity + lido.readStage(run).intensity + lido.readSiren(run).intensity;
  return single + lido.readPoolWall(run, 9).intensity + lido.readCabinsBulb(run, 3).intensity + stars[7]!.intensity;
}

/** 4 to 24 ms, and now and then half a second is lost. */
const length = (frame: number): number => (frame % 500 === 499 ? 0.5 : 0.004 + (0.02 * (frame % 7)) / 6);

/** What the game does, and in which frame. */
const acts: Record<number, (run: Run) => void> = {
  100: (run) => lido.fireMainsBack(run), // they are on already: nothing happens
  200: (run) => lido.fireGala(run),
  300: (run) => lido.fireCabinsCord(run, 3),
  400: (run) => lido.fireRocket(run, 2000, 2500, -3000, 0.2, 1, 0.2, 2),
  700: (run) => lido.setThrottle(run, 0.95),
  900: (run) => lido.fireMainsOut(run),
  1000: (run) => lido.fireMainsBack(run),
  2200: (run) => lido.setWalker(run, 2300, 170, -100),
};

if (lido.selfTest() !== 0) throw new Error("other bits than those of the preview");
const run = lido.start(lido.bookSeed);
let [time, notices] = [0, 0];
let saved = new Uint8Array();
for (let frame = 0; frame < 3000; ++frame) {
  time += length(frame);
  acts[frame]?.(run);
  if (frame === 1500) saved = new Uint8Array(lido.save(run));
  while (!lido.advance(run, time)); // more than once only after a very long frame
  for (let notice = lido.takeNotice(run); notice; notice = lido.takeNotice(run)) {
    notices += 1;
    if (notices <= 4) console.log(`${notice.moment.toFixed(3)} s: ${notice.name} ${notice.text}`);
  }
}

// From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
const loaded = lido.start(0);
if (lido.load(loaded, saved) !== 0) throw new Error("a save is dropped");
time = loaded.now;
for (let frame = 1500; frame < 2200; ++frame) time += length(frame);
lido.advance(loaded, time);
acts[2200]!(loaded);
lido.advance(loaded, run.now);
if (look(loaded) !== look(run)) throw new Error("a loaded run goes on otherwise");
const sum = saved.reduce((sum, byte) => (Math.imul(31, sum) + byte) >>> 0, 0);
console.log(`${run.now.toFixed(1)} s, ${notices} notices, the same after loading`);
console.log(`a save of ${saved.length} bytes, ${sum.toString(16).padStart(8, "0")}`);
