// Hours from the midnight of the day at which the clock was last touched.
double ClockHours()
{
    return HourThen + (Now - ClockSince) * (ClockRate * PACE);
}

/// <summary>What the game's clock shows: the hour of the day, 0 to 24 (24 excluded).</summary>
public double ClockHour()
{
    return HourOf(ClockHours());
}

/// <summary>How many days have begun on it since the run's first, which is 0; below 0 before it.</summary>
public double ClockDays()
{
    return Clamp(DaysThen + DaysOf(ClockHours()), -1e9, 1e9);
}

/// <summary>Sets it to an hour of the current day, from which it goes on as fast as before.</summary>
public void SetClock(double hour)
{
    DaysThen = ClockDays();
    HourThen = HourOf(CleanInput(hour, -1e9, 1e9, START));
    ClockFrom = HourThen;
    ClockSince = Now;
    this.due = Now;
    BY_HOUR();
}

/// <summary>Moves it to an hour, the short way round, and holds it there: for a game that has a clock of
/// its own.</summary>
public void DriveClock(double hour)
{
    double to = HourOf(CleanInput(hour, -1e9, 1e9, START));
    double way = to - ClockHour();
    double midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
    DaysThen = Clamp(ClockDays() + midnight, -1e9, 1e9);
    ClockFrom = ClockHour();
    HourThen = to;
    ClockSince = Now;
    this.due = Now;
    ClockRate = 0.0;
    Settle();
}

/// <summary>Sets how many days it has counted; whole ones.</summary>
public void SetClockDays(double days)
{
    HourThen = ClockHour();
    ClockFrom = HourThen;
    DaysThen = RoundDown(CleanInput(days, -1e9, 1e9, 0.0));
    ClockSince = Now;
    this.due = Now;
}

/// <summary>Sets how fast it goes: 1 as the book has it, 0 stands still, below 0 backwards; -1e6 to
/// 1e6.</summary>
public void SetClockRate(double rate)
{
    double hour = ClockHour();
    DaysThen = ClockDays();
    HourThen = hour;
    ClockFrom = hour;
    ClockSince = Now;
    this.due = Now;
    ClockRate = CleanInput(rate, -1e6, 1e6, RATE);
}

//: strikes
// The first moment after another at which it comes to show an hour, as far as is known now; 2e9 for none.
double ClockStrikes(double hour, double after)
{
    double speed = ClockRate * PACE;
    if (speed == 0.0)
    {
        double far = HourThen - ClockFrom;
        double way = far > 12.0 ? far - 24.0 : far < -12.0 ? far + 24.0 : far;
        double left = HourOf(way < 0.0 ? ClockFrom - hour : hour - ClockFrom);
        bool passed = left > 0.0 && left <= (way < 0.0 ? -way : way);
        return passed && ClockSince > after ? ClockSince : 2e9;
    }
    double shown = HourThen, since = ClockSince;
    double next = HourOf(speed > 0.0 ? hour - shown : shown - hour);
    double ahead = next < 1e-9 ? 24.0 : next;
    double pace = speed > 0.0 ? speed : -speed;
    double last = after > since ? after : since;
    double turns = RoundDown(((last - since) * pace - ahead) / 24.0);
    double whole = turns > 0.0 ? turns : 0.0;
    double at = since + (ahead + 24.0 * whole) / pace;
    return at > last ? at : since + (ahead + 24.0 * (whole + 1.0)) / pace;
}

