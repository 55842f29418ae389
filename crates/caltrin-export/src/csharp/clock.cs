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
    return Within(DaysThen + DaysOf(ClockHours()), -1e9, 1e9);
}

/// <summary>Sets it to an hour of the day at hand, from which it goes on as fast as before.</summary>
public void SetClock(double hour)
{
    DaysThen = ClockDays();
    HourThen = HourOf(CleanInput(hour, -1e9, 1e9, START));
    ClockSince = Now;
}

/// <summary>Moves it to an hour, the short way round, and holds it there: for a game that has a clock of
/// its own.</summary>
public void DriveClock(double hour)
{
    double to = HourOf(CleanInput(hour, -1e9, 1e9, START));
    double way = to - ClockHour();
    double midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
    DaysThen = Within(ClockDays() + midnight, -1e9, 1e9);
    HourThen = to;
    ClockSince = Now;
    ClockRate = 0.0;
}

/// <summary>Sets how many days it has counted; whole ones.</summary>
public void SetClockDays(double days)
{
    HourThen = ClockHour();
    DaysThen = RoundDown(CleanInput(days, -1e9, 1e9, 0.0));
    ClockSince = Now;
}

/// <summary>Sets how fast it goes: 1 as the book has it, 0 stands still, below 0 backwards; -1e6 to
/// 1e6.</summary>
public void SetClockRate(double rate)
{
    double hour = ClockHour();
    DaysThen = ClockDays();
    HourThen = hour;
    ClockSince = Now;
    ClockRate = CleanInput(rate, -1e6, 1e6, RATE);
}

