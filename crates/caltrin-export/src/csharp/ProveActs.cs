                for (int act = FIRST_ACT; act < FIRST_ACT + 3 * ACTS; act += 3)
                {
                    double to = inputs[act + 2], when = inputs[act + 1];
                    run.Advance(when);
                    if (inputs[act] == 1.0) run.SetClock(to);
                    if (inputs[act] == 2.0) run.DriveClock(to);
                    if (inputs[act] == 3.0) run.SetClockDays(to);
                    if (inputs[act] == 4.0) run.SetClockRate(to);
                    // CHOICES
                }
