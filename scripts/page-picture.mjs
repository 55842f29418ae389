// A picture of the live page after some seconds, taken through WebDriver.
//
//   node scripts/page-picture.mjs ADDRESS PICTURE [SECONDS [SCRIPT [LAST]]]
//
// The script is run in the page before the last second, or the last LAST seconds.
import { spawn } from "node:child_process";
import { mkdtempSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";

const [address, picture, seconds = "4", script = "", last = "1"] = process.argv.slice(2);
const wait = (ms) => new Promise((done) => setTimeout(done, ms));
const port = 9515 + Math.floor(Math.random() * 400);
const driver = spawn("chromedriver", [`--port=${port}`], { stdio: "ignore" });
async function call(method, path, body) {
  const answer = await fetch(`http://127.0.0.1:${port}${path}`, { method, body: body && JSON.stringify(body) });
  const { value } = await answer.json();
  if (!answer.ok) throw new Error(value.message);
  return value;
}
try {
  for (let n = 0; n < 100 && !(await call("GET", "/status").catch(() => null)); ++n) await wait(100);
  const profile = mkdtempSync(join(tmpdir(), "page-"));
  const args = [
    "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run", "--disable-background-networking",
    "--disable-component-update", "--disable-sync", "--hide-scrollbars", `--user-data-dir=${profile}`,
    "--window-size=1280,800", "--blink-settings=preferredColorScheme=0",
  ];
  const wanted = { capabilities: { alwaysMatch: { "goog:chromeOptions": { args } } } };
  const { sessionId } = await call("POST", "/session", wanted);
  const session = `/session/${sessionId}`;
  // The window's edges are not the page's.
  const ask = (script) => call("POST", `${session}/execute/sync`, { script, args: [] });
  const [w, h] = await ask("return [innerWidth, innerHeight]");
  await call("POST", `${session}/window/rect`, { width: 1280 + 1280 - w, height: 800 + 800 - h });
  await call("POST", `${session}/url`, { url: address });
  await wait((Number(seconds) - 1) * 1000);
  if (script) await ask(script);
  await wait(Number(last) * 1000);
  writeFileSync(picture, Buffer.from(await call("GET", `${session}/screenshot`), "base64"));
  await call("DELETE", session);
} finally {
  driver.kill();
}
