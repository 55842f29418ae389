/* Hours from the midnight of the day at which the clock was last touched. */
static inline double BOOK_clock_hours(const BOOK_run *run)
{
    return run->clock_hour + (run->now - run->clock_since) * (run->clock_rate * PACE);
}

/* What the game's clock shows: the hour of the day, 0 to 24 (24 excluded). */
API double BOOK_clock_hour(const BOOK_run *run)
{
    return BOOK_hour_of(BOOK_clock_hours(run));
}

/* How many days have begun on it since the run's first, which is 0; below 0 before it. */
API double BOOK_clock_days(const BOOK_run *run)
{
    const double days = run->clock_days + BOOK_days_of(BOOK_clock_hours(run));
    return BOOK_clamp(days, -1e9, 1e9);
}

/* Sets it to an hour of the current day, from which it goes on as fast as before. */
API void BOOK_set_clock(BOOK_run *run, double hour)
{
    run->clock_days = BOOK_clock_days(run);
    run->clock_hour = BOOK_hour_of(BOOK_clean_input(hour, -1e9, 1e9, START));
    run->clock_from = run->clock_hour;
    run->clock_since = run->now;
    run->due = run->now;
    BY_HOUR(run);
}

/* Moves it to an hour, the short way round, and holds it there: for a game that has a clock of its own. */
API void BOOK_drive_clock(BOOK_run *run, double hour)
{
    const double to = BOOK_hour_of(BOOK_clean_input(hour, -1e9, 1e9, START));
    const double way = to - BOOK_clock_hour(run);
    const double midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
    run->clock_days = BOOK_clamp(BOOK_clock_days(run) + midnight, -1e9, 1e9);
    run->clock_from = BOOK_clock_hour(run);
    run->clock_hour = to;
    run->clock_since = run->now;
    run->due = run->now;
    run->clock_rate = 0.0;
    BOOK_settle(run);
}

/* Sets how many days it has counted; whole ones. */
API void BOOK_set_clock_days(BOOK_run *run, double days)
{
    run->clock_hour = BOOK_clock_hour(run);
    run->clock_from = run->clock_hour;
    run->clock_days = BOOK_round_down(BOOK_clean_input(days, -1e9, 1e9, 0.0));
    run->clock_since = run->now;
    run->due = run->now;
}

/* Sets how fast it goes: 1 as the book has it, 0 stands still, below 0 backwards; -1e6 to 1e6. */
API void BOOK_set_clock_rate(BOOK_run *run, double rate)
{
    const double hour = BOOK_clock_hour(run);
    run->clock_days = BOOK_clock_days(run);
    run->clock_hour = hour;
    run->clock_from = hour;
    run->clock_since = run->now;
    run->due = run->now;
    run->clock_rate = BOOK_clean_input(rate, -1e6, 1e6, RATE);
}

//: strikes
/* The first moment after another at which it comes to show an hour, as far as is known now; 2e9 for none. */
static inline double BOOK_clock_strikes(const BOOK_run *run, double hour, double after)
{
    const double speed = run->clock_rate * PACE;
    if (speed == 0.0) {
        const double far = run->clock_hour - run->clock_from;
        const double way = far > 12.0 ? far - 24.0 : far < -12.0 ? far + 24.0 : far;
        const double left = BOOK_hour_of(way < 0.0 ? run->clock_from - hour : hour - run->clock_from);
        const bool passed = left > 0.0 && left <= (way < 0.0 ? -way : way);
        return passed && run->clock_since > after ? run->clock_since : 2e9;
    } else {
        const double shown = run->clock_hour, since = run->clock_since;
        const double next = BOOK_hour_of(speed > 0.0 ? hour - shown : shown - hour);
        const double ahead = next < 1e-9 ? 24.0 : next;
        const double pace = speed > 0.0 ? speed : -speed;
        const double last = after > since ? after : since;
        const double turns = BOOK_round_down(((last - since) * pace - ahead) / 24.0);
        const double whole = turns > 0.0 ? turns : 0.0;
        const double at = since + (ahead + 24.0 * whole) / pace;
        return at > last ? at : since + (ahead + 24.0 * (whole + 1.0)) / pace;
    }
}

