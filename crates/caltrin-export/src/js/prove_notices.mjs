  let sum = 0, count = 0;
  for (let notice = book.takeNotice(run); notice; notice = book.takeNotice(run)) {
    count += 1;
    sum += notice.moment * count;
    sum += notice.lamp * 3;
    for (const part of notice.position) sum += part;
    sum += VALUE;
    for (const text of [notice.name, notice.text, notice.from]) {
      for (const byte of Buffer.from(text)) sum += byte;
    }
  }
  put(Math.fround(sum));
  put(book.droppedNotices(run));
