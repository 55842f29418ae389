// A bare host of the pier in JavaScript: frames of uneven length and a hitch, events in any order, a save and a load.
//
//     node examples/hosts/pier.mjs
import * as pier from "../exported/saltgate_pier.mjs";

if (pier.selfTest() !== 0) process.exit(1);
const run = pier.start(41);
const masts = Array.from({ length: 8 }, (_, n) => pier.readMast(run, n));
let [time, spent, notices, saved] = [0, 0, 0, ""];
for (let frame = 0; frame < 3000; ++frame) {
  const begin = performance.now();
  // 4 to 24 ms, and now and then half a second is lost.
  time += frame % 500 === 499 ? 0.5 : 0.004 + (0.02 * (frame % 7)) / 6;
  if (frame === 200) pier.firePowerBack(run); // it is on already: nothing happens
  if (frame === 300) pier.fireFerryDocks(run);
  if (frame === 900) pier.setSwell(run, 0.9);
  if (frame === 1200) pier.firePowerCut(run);
  if (frame === 1300) pier.firePowerBack(run);
  if (frame === 1500) saved = JSON.stringify(run); // a run is plain data
  while (!pier.advance(run, time)); // more than once only after a very long frame
  pier.fillMast(run, 0, masts);
  spent += performance.now() - begin;
  for (let notice = pier.takeNotice(run); notice; notice = pier.takeNotice(run)) {
    notices += 1;
    if (notices <= 4) console.log(`${notice.moment.toFixed(3)} s: ${notice.name} ${notice.text}`);
  }
}
// From the save on in one go: the same, to the bit.
const loaded = JSON.parse(saved);
pier.advance(loaded, time);
for (let n = 0; n < 8; ++n) if (pier.readMast(loaded, n).intensity !== masts[n].intensity) process.exit(2);
console.log(`${time.toFixed(1)} s, ${notices} notices, mast 0 at ${masts[0].intensity.toFixed(0)} lm, the same after loading`);
console.log(`${((spent / 3000) * 1000).toFixed(2)} us a frame with 8 masts, ${saved.length} letters a save`);
