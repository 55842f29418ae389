  for (let act = 0; act < ACTS; ++act) {
    const [kind, when, to] = [0, 1, 2].map((n) => input(FIRST_ACT + 3 * act + n));
    book.advance(run, when);
    if (kind === 1) book.setClock(run, to);
    if (kind === 2) book.driveClock(run, to);
    if (kind === 3) book.setClockDays(run, to);
    if (kind === 4) book.setClockRate(run, to);
    // CHOICES
  }
