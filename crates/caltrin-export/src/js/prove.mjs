import * as fs from "node:fs";
import * as book from "./BOOK_MJS";

const [from, to] = process.argv.slice(2);
if (!to) process.exit(book.selfTest() === 0 ? 0 : 1);
const asked = fs.readFileSync(from);
const record = 16 + 8 * SLOTS;
const pairs = Math.floor(asked.length / record);
const values = new DataView(new ArrayBuffer(pairs * WIDTH * 4));
let at = 0;
function put(given) {
  const value = Number(given);
  values.setFloat32(at, value, true);
  if (values.getFloat32(at, true) !== value) throw new Error(`${value} is no single`);
  at += 4;
}
let run = book.start(0);
for (let n = 0; n < pairs; ++n) {
  const from = n * record;
  const input = (slot) => asked.readDoubleLE(from + 16 + 8 * slot);
  const given = (slot) => input(GIVEN + slot);
  // Else it goes on from where it was.
  if (asked.readUInt32LE(from + 12) === 0) run = book.start(asked.readUInt32LE(from + 8));
  void given;
  // SETS
  // CLOCK
  book.advance(run, asked.readDoubleLE(from));
  // READS
}
fs.writeFileSync(to, values);
