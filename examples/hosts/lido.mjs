// A bare host of the Ostrel lido in JavaScript: frames of uneven length and a hitch, events out of order, a save and a load.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to js -o generated
//     node examples/hosts/lido.mjs generated/ostrel_lido.mjs
import { resolve } from "node:path";
import { pathToFileURL } from "node:url";

const lido = await import(pathToFileURL(resolve(process.argv[2] ?? "generated/ostrel_lido.mjs")));
if (lido.selfTest() !== 0) process.exit(1);
const run = lido.start(lido.bookSeed);
// Lamps that are kept, so that nothing is allocated in a frame.
const counts = { PoolWall: 10, LaneFloat: 24, CabinsBulb: 9, Tube: 4, Path: 12, Garland: 16, Star: 8 };
const arrays = Object.entries(counts).map(([name, count]) => [lido[`fill${name}`], Array.from({ length: count }, (_, n) => lido[`read${name}`](run, n))]);
const [fountain, stage, siren] = [lido.readFountain(run), lido.readStage(run), lido.readSiren(run)];

/** What is seen from the basin. */
function look(run) {
  let sum = lido.readFountain(run, fountain).intensity + lido.readStage(run, stage).intensity + lido.readSiren(run, siren).intensity;
  for (const [fill, lamps] of arrays) {
    fill(run, 0, lamps);
    sum += lamps[lamps.length - 1].intensity;
  }
  return sum;
}

/** 4 to 24 ms, and now and then half a second is lost. */
const length = (frame) => (frame % 500 === 499 ? 0.5 : 0.004 + (0.02 * (frame % 7)) / 6);
let [time, sum, went, looked, notices, saved] = [0, 0, 0, 0, 0, null];
for (let frame = 0; frame < 3000; ++frame) {
  const begin = performance.now();
  time += length(frame);
  if (frame === 100) lido.fireMainsBack(run); // they are on already: nothing happens
  if (frame === 200) lido.fireGala(run);
  if (frame === 300) lido.fireCabinsCord(run, 3);
  if (frame === 400) lido.fireRocket(run, 2000, 2500, -3000, 0.2, 1, 0.2, 2);
  if (frame === 700) lido.setThrottle(run, 0.95);
  if (frame === 900) lido.fireMainsOut(run);
  if (frame === 1000) lido.fireMainsBack(run);
  if (frame === 1500) saved = lido.save(run);
  if (frame === 2200) lido.setWalker(run, 2300, 170, -100);
  while (!lido.advance(run, time)); // more than once only after a very long frame
  const gone = performance.now();
  sum = look(run);
  went += gone - begin;
  looked += performance.now() - gone;
  for (let notice = lido.takeNotice(run); notice; notice = lido.takeNotice(run)) {
    notices += 1;
    if (notices <= 4) console.log(`${notice.moment.toFixed(3)} s: ${notice.name} ${notice.text}`);
  }
}
// From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
const loaded = lido.start(0);
if (lido.load(loaded, saved) !== 0) process.exit(3);
time = loaded.now;
for (let frame = 1500; frame < 2200; ++frame) time += length(frame);
lido.advance(loaded, time);
lido.setWalker(loaded, 2300, 170, -100);
lido.advance(loaded, run.now);
if (look(loaded) !== sum) process.exit(2);
const sumOfSave = saved.reduce((sum, byte) => (Math.imul(31, sum) + byte) >>> 0, 0);
console.log(`${run.now.toFixed(1)} s, ${notices} notices, the same after loading`);
console.log(`a save of ${saved.length} bytes, ${sumOfSave.toString(16).padStart(8, "0")}`);
console.log(`a frame: ${((went / 3000) * 1000).toFixed(2)} us to advance, ${((looked / 3000) * 1000).toFixed(2)} us to read 86 lamps`);
