// Reads off what the pointer is at: the light, the moment and its level.
const svg = document.querySelector("svg");
const told = document.getElementById("told");
const line = document.getElementById("line");
const short = (v) => {
  const size = Math.abs(v);
  const text = v.toFixed(size >= 1000 ? 0 : size >= 100 ? 1 : size >= 1 ? 2 : 3);
  return text.includes(".") ? text.replace(/\.?0+$/, "") : text;
};
const clock = (hours) => {
  const minutes = Math.floor(hours * 60);
  return [Math.floor(minutes / 60), minutes % 60].map((n) => String(n).padStart(2, "0")).join(":");
};
const words = (v, unit) => (unit === "clock" ? clock(v) : unit === "" ? `${short(v * 100)}%` : `${short(v)} ${unit}`);

function read(event) {
  const box = svg.getBoundingClientRect();
  const scale = box.width / svg.viewBox.baseVal.width;
  const x = (event.clientX - box.left) / scale;
  const y = (event.clientY - box.top) / scale;
  const lane = readings.lanes.find((lane) => y >= lane.y && y < lane.y + lane.h && x >= lane.x && x < lane.x + lane.w);
  told.hidden = line.hidden = !lane;
  if (!lane) return;
  const share = (x - lane.x) / lane.w;
  const column = Math.min(lane.levels.length - 1, Math.floor(share * lane.levels.length));
  const [least, mean, most] = lane.levels[column];
  const along = readings.from + share * (readings.to - readings.from);
  const range = most - least > lane.top * 0.002 ? ` (${words(least, lane.unit)} to ${words(most, lane.unit)})` : "";
  const found = lane.findings.length ? `, ${lane.findings.join(" ")}` : "";
  told.querySelector("b").textContent = lane.name;
  told.querySelector("i").style.background = lane.colors[column];
  told.querySelector("span").textContent = ` at ${words(along, readings.unit)}: ${words(mean, lane.unit)}${range}${found}`;
  const wide = told.offsetWidth;
  told.style.left = `${Math.min(event.clientX + 14, innerWidth - wide - 8) + scrollX}px`;
  told.style.top = `${event.clientY + 18 + scrollY}px`;
  line.style.left = `${event.clientX + scrollX}px`;
  line.style.top = `${box.top + readings.lanes[0].y * scale + scrollY}px`;
  const last = readings.lanes[readings.lanes.length - 1];
  line.style.height = `${(last.y + last.h - readings.lanes[0].y) * scale}px`;
}

svg.addEventListener("pointermove", read);
svg.addEventListener("pointerleave", () => {
  told.hidden = line.hidden = true;
});
