/** Lets a notice wait until the host takes it, if there is room. @param {Run} run @param {number} line @param {number} text @param {number} lampVALUE_DOCS */
function send(run, line, text, lampVALUE_PARAMETERS) {
  if (run.COUNT >= 32.0) {
    run.DROPPED += 1.0;
    return;
  }
  const end = run.FIRST + run.COUNT;
  const at = end >= 32.0 ? end - 32.0 : end;
  run.COUNT += 1.0;
  run.MOMENTS[at] = run.now;
  run.PACKED[at] = (line * 64.0 + text) * 1048576.0 + lamp;
  const place = noticePlace(run, line, lamp); //: placed
  KEEP place[PART] //: placed
  KEEP_VALUE
}
 //: placed
/** Where the lamp is that the notice of a line comes from. @param {Run} run @param {number} line @param {number} lamp @returns {number[]} */ //: placed
function noticePlace(run, line, lamp) { //: placed
  switch (line) { //: placed
PLACES
    default: return [0, 0, 0]; //: placed
  } //: placed
} //: placed

//: take
/**
 * What the book tells the game when something happens: the moment, its name, what comes with it (one of several texts by
 * chance), the light or instance that it comes from, which lamp or instance, and where that was then.
 * @typedef {{ moment: number, name: string, text: string, from: string, lamp: number, position: number[]VALUE_TYPES }} Notice
 */

/** Takes the oldest notice that waits; null if there is none. 32 may wait. @param {Run} run @returns {Notice | null} */
export function takeNotice(run) {
  if (run.COUNT <= 0.0) return null;
  const at = run.FIRST;
  const which = Math.floor(run.PACKED[at] / 1048576.0), text = which % 64;
  const lamp = run.PACKED[at] - which * 1048576.0;
  /** @type {Notice} */
  const notice = {
    moment: run.MOMENTS[at],
    name: "",
    text: "",
    from: "",
    lamp,
    position: [0, 0, 0],
    VALUE_TAKEN
  };
  notice.position[PART] = KEPT; //: placed
  run.COUNT -= 1.0;
  run.FIRST = run.FIRST >= 31.0 ? 0.0 : run.FIRST + 1.0;
  switch (Math.floor(which / 64)) {
LINES  }
  return notice;
}

/** How many notices there was no room for since the start. @param {Run} run @returns {number} */
export function droppedNotices(run) {
  return run.DROPPED;
}

