// Saltgate pier. Made by caltrin from pier.caltrin.
//
// Change the lightbook and export again rather than this file.
//
// No dependency, no heap, no globals, no unsafe code. A run is a plain value of 2752 bytes: copy
// it, or call Save() for a saved game. Values are computed when they are read, at any
// moment, in any order, at the same cost.
//
// Keep it in a plain field or local and pass it by `ref`: on a copy (a readonly field, a property,
// an `in` parameter) Advance, events and setters change the copy alone. SaltgatePierRun is a class
// that holds one, for all other places.
//
// Host loop:
//
//     var run = SaltgatePier.Start(SaltgatePier.BookSeed);
//     for (;;)
//     {
//         run.Step(secondsOfThisFrame);
//         var lamp = run.ReadMast(0);
//     }

using System;
using System.Runtime.InteropServices;

namespace Lightbooks
{
    /// <summary>A run of the book: where it stands, and the seed of all its chances.</summary>
    public partial struct SaltgatePier
    {
        /// <summary>The book's own seed.</summary>
        public const uint BookSeed = 41u;

        public double Now; // s since the run's start
        /// <summary>s, the earliest moment at which something can occur by itself; recomputed after
        /// each action of the game</summary>
        double Due;
        double HourThen; // h, the clock when it was last set
        double DaysThen; // number of days at that time
        double ClockSince; // s, when that occurred
        double ClockRate; // its rate, 1 as in the book
        double WeatherSince; // s, when it was chosen
        ManyWeatherFrom WeatherFrom; // how much each option counted then
        double Mist; // number
        double Swell; // number
        double Season; // number
        double Haul; // number
        double RocketPlaceX, RocketPlaceY, RocketPlaceZ; // its latest value
        double RocketTintR, RocketTintG, RocketTintB; // its latest value
        double HornAt; // s, its position at that time
        double HornSince; // s, when it was at that position
        double HornChanged; // s, when it was started, stopped or set
        double RatchetAt; // s, its position at that time
        double RatchetSince; // s, when it was at that position
        double RatchetRate; // its speed since then; negative until it is known
        double PowerSince; // s, when it last changed
        double PowerFrom; // its level at that time
        double WarningMode; // the active mode, counted from 0
        double WarningEntered; // s, when it was entered
        double WarningWay; // the index of its current crossfade
        double WarningFromWatch; // its weight at that time
        double WarningFromAlarm; // its weight at that time
        double WarningRule1Since; // s, when that became true
        double BlareHornFollow0From; // the level when the sound was started, stopped or set
        double BlastPassed; // s, the position in the sound after which the next one is
        ManyNoticeMoments NoticeMoments; // s, when each was sent
        ManyNoticePacked NoticePacked; // the packed notice
        ManyNoticePositions NoticePositions; // the position of its lamp at that time
        double NoticeFirst; // the index of the oldest
        double NoticeCount; // number of queued notices
        double NoticeDropped; // number of dropped notices
        double Notice0Sent; // number of times sent
        ManyNoticeValueLoud NoticeValueLoud; // that value of each notice
        double Notice0Text; // the index of its latest text
        ManyFogLampFaultLast FogLampFaultLast; // s, when it last occurred
        ManyFogLampFaultCount FogLampFaultCount; // number of occurrences
        ManyNotice1Sent Notice1Sent; // number of times sent
        ManyNoticeValueWithin NoticeValueWithin; // that value of each notice
        ManyNotice1Text Notice1Text; // the index of its latest text
        ManyQuayCock QuayCock; // number
        ManyBoardLoudness BoardLoudness; // number
        double DockingStarted; // s, when it started
        double GateOpensLast; // s, when it last occurred
        ManyStarShellBorn StarShellBorn; // s, when it began
        ManyStarShellLength StarShellLength; // s, its lifetime
        ManyStarShellPlace StarShellPlace; // its value
        ManyStarShellTint StarShellTint; // its value
        double StarShellCount; // number of occurrences of its event
        public uint Seed; // of all its chances
        uint Weather; // the option chosen
        bool HornPlays; // whether it plays
        bool PowerOn; // whether it is on or turning on
        bool WarningRule1Seen; // whether the condition was true

        [StructLayout(LayoutKind.Sequential, Size = 16)]
        struct ManyWeatherFrom
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 2)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 2);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 256)]
        struct ManyNoticeMoments
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 32)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 32);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 256)]
        struct ManyNoticePacked
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 32)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 32);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 768)]
        struct ManyNoticePositions
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 96)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 96);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 256)]
        struct ManyNoticeValueLoud
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 32)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 32);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 24)]
        struct ManyFogLampFaultLast
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 3)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 3);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 24)]
        struct ManyFogLampFaultCount
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 3)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 3);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 24)]
        struct ManyNotice1Sent
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 3)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 3);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 256)]
        struct ManyNoticeValueWithin
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 32)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 32);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 24)]
        struct ManyNotice1Text
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 3)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 3);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 96)]
        struct ManyQuayCock
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 12)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 12);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 24)]
        struct ManyBoardLoudness
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 3)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 3);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 48)]
        struct ManyStarShellBorn
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 6)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 6);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 48)]
        struct ManyStarShellLength
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 6)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 6);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 144)]
        struct ManyStarShellPlace
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 18)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 18);
                all[(int)n] = to;
            }
        }

        [StructLayout(LayoutKind.Sequential, Size = 144)]
        struct ManyStarShellTint
        {
            double first;
            public double At(uint n)
            {
                return MemoryMarshal.CreateSpan(ref first, 18)[(int)n];
            }
            public void Put(uint n, double to)
            {
                var all = MemoryMarshal.CreateSpan(ref first, 18);
                all[(int)n] = to;
            }
        }

        /// <summary>A run at moment 0.</summary>
        public static SaltgatePier Start(uint seed)
        {
            SaltgatePier run = default(SaltgatePier);
            run.Seed = seed;
            run.HourThen = 17.666666666666668;
            run.ClockRate = 1.0;
            run.WeatherSince = -2e9;
            run.WeatherFrom.Put(0u, 1.0);
            run.Mist = 0.3;
            run.Swell = 0.2;
            run.Season = 324.0;
            run.Haul = 1.0;
            run.RocketPlaceX = 30.0;
            run.RocketPlaceY = 40.0;
            run.RocketPlaceZ = -60.0;
            run.RocketTintR = 1.0;
            run.RocketTintG = 1.0;
            run.RocketTintB = 1.0;
            run.HornChanged = -2e9;
            run.RatchetRate = -1.0;
            run.PowerSince = -2e9;
            run.PowerFrom = 1.0;
            run.WarningEntered = -2e9;
            run.WarningRule1Since = -2e9;
            run.BlastPassed = -1e-9;
            run.Notice0Text = -1.0;
            for (uint n = 0; n < 3u; ++n) run.FogLampFaultLast.Put(n, -2e9);
            for (uint n = 0; n < 3u; ++n) run.Notice1Text.Put(n, -1.0);
            for (uint n = 0; n < 12u; ++n) run.QuayCock.Put(n, 1.0);
            for (uint n = 0; n < 3u; ++n) run.BoardLoudness.Put(n, 0.6);
            run.DockingStarted = -2e9;
            run.GateOpensLast = -2e9;
            for (uint n = 0; n < 6u; ++n) run.StarShellBorn.Put(n, -2e9);
            for (uint n = 0; n < 6u; ++n) run.StarShellLength.Put(n, 5.0);
            for (uint n = 0; n < 6u; ++n) run.StarShellPlace.Put(3u * n + 0u, 30.0);
            for (uint n = 0; n < 6u; ++n) run.StarShellPlace.Put(3u * n + 1u, 40.0);
            for (uint n = 0; n < 6u; ++n) run.StarShellPlace.Put(3u * n + 2u, -60.0);
            for (uint n = 0; n < 6u; ++n) run.StarShellTint.Put(3u * n + 0u, 1.0);
            for (uint n = 0; n < 6u; ++n) run.StarShellTint.Put(3u * n + 1u, 1.0);
            for (uint n = 0; n < 6u; ++n) run.StarShellTint.Put(3u * n + 2u, 1.0);
            run.PowerOn = true;
            return run;
        }

        /// <summary>Advances to a moment of the run, in seconds since its start. Returns false if
        /// events are left for the next call.</summary>
        public bool Advance(double to)
        {
            double end = CleanMoment(to);
            bool back = end < Now;
            if (!back && end < Due)
            {
                Now = end;
                return true;
            }
            for (uint pass = 0; pass < 10000; ++pass)
            {
                double next = DueRatchetSpeeds();
                uint which = 0u;
                uint index = 0u;
                double warningRule1LookDue = DueWarningRule1Look();
                if (warningRule1LookDue < next)
                {
                    next = warningRule1LookDue;
                    which = 1u;
                }
                double warningRule1Due = DueWarningRule1();
                if (warningRule1Due < next)
                {
                    next = warningRule1Due;
                    which = 2u;
                }
                double warningRule2Due = DueWarningRule2();
                if (warningRule2Due < next)
                {
                    next = warningRule2Due;
                    which = 3u;
                }
                double blastDue = DueBlast();
                if (blastDue < next)
                {
                    next = blastDue;
                    which = 4u;
                }
                for (uint k = 0u; k < 3u; ++k)
                {
                    double fogLampFaultDue = DueFogLampFault(k);
                    if (fogLampFaultDue < next)
                    {
                        next = fogLampFaultDue;
                        which = 5u;
                        index = k;
                    }
                }
                double gateOpensDue = DueGateOpens();
                if (gateOpensDue < next)
                {
                    next = gateOpensDue;
                    which = 6u;
                }
                if (next > end)
                {
                    Due = back ? end : next;
                    Now = end;
                    return true;
                }
                Now = next;
                switch (which)
                {
                    case 0: HappenRatchetSpeeds(); break;
                    case 1: HappenWarningRule1Look(); break;
                    case 2: HappenWarningRule1(); break;
                    case 3: HappenWarningRule2(); break;
                    case 4: HappenBlast(); break;
                    case 5: HappenFogLampFault(index); break;
                    default: HappenGateOpens(); break;
                }
            }
            Due = end;
            Now = end;
            return false;
        }

        /// <summary>Advances by some seconds. Steps add up their rounding errors; `advance` does
        /// not.</summary>
        public bool Step(double seconds)
        {
            return Advance(Now + seconds);
        }

        /// <summary>Processes events that are due at this moment, after an action of the game and
        /// at moment 0.</summary>
        void Settle()
        {
            if (Now > 0.0) Advance(Now);
        }

        /// <summary>The size of a save in bytes.</summary>
        public const int SaveBytes = 3304;

        /// <summary>A hash of the layout of saves.</summary>
        public const uint Layout = 972592800u;

        /// <summary>The version of the exporter.</summary>
        public const string Exporter = "caltrin 0.1.0";

        /// <summary>Saves the run. The bytes are the same on every machine, in every language and in the preview. An array
        /// of at least SaveBytes is reused if it is given.</summary>
        public byte[] Save(byte[] bytes = null)
        {
            bytes = bytes ?? new byte[SaveBytes];
            WriteSave(bytes);
            return bytes;
        }

        /// <summary>Loads a save of this book or of another version of it. Fields that both have are restored; all others
        /// start at their defaults.</summary>
        /// <param name="bytes">The save.</param>
        /// <param name="dropped">The number of fields in the save that this file lacks or has fewer of.</param>
        /// <returns>False if the bytes are not a complete save; the run is then unchanged.</returns>
        public bool Load(byte[] bytes, out uint dropped)
        {
            dropped = 0u;
            if (bytes == null || !IsSave(bytes, (uint)bytes.Length)) return false;
            dropped = ReadSave(bytes, (uint)bytes.Length);
            return true;
        }

        /// <summary>Choice, set by the game: fair, overcast, with a transition of 20.0 s --
        /// pier.caltrin:14: choice weather { fair, overcast } over 20s</summary>
        public const uint WeatherFair = 0u;
        public const uint WeatherOvercast = 1u;

        /// <summary>Hours from the midnight of the day on which the clock was last set.</summary>
        double ClockHours()
        {
            return HourThen + (Now - ClockSince) * (ClockRate * 0.011428571428571429);
        }

        /// <summary>Hour of the game's clock, 0 to 24 (24 excluded).</summary>
        public double ClockHour()
        {
            return HourOf(ClockHours());
        }

        /// <summary>How many days have begun on the clock since the run's first, which is 0; below
        /// 0 before it.</summary>
        public double ClockDays()
        {
            return Clamp(DaysThen + DaysOf(ClockHours()), -1e9, 1e9);
        }

        /// <summary>Sets the clock to an hour of the current day. It keeps its rate.</summary>
        public void SetClock(double hour)
        {
            DaysThen = ClockDays();
            HourThen = HourOf(CleanInput(hour, -1e9, 1e9, 17.666666666666668));
            ClockSince = Now;
            Due = Now;
        }

        /// <summary>Moves the clock to an hour, the shorter way around, and holds it there: for a
        /// game with a clock of its own.</summary>
        public void DriveClock(double hour)
        {
            double to = HourOf(CleanInput(hour, -1e9, 1e9, 17.666666666666668));
            double from = ClockHour();
            double way = to - from;
            double midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
            DaysThen = Clamp(ClockDays() + midnight, -1e9, 1e9);
            HourThen = to;
            ClockSince = Now;
            Due = Now;
            ClockRate = 0.0;
            Settle();
        }

        /// <summary>Sets how many days the clock has counted, rounded down.</summary>
        public void SetClockDays(double days)
        {
            HourThen = ClockHour();
            DaysThen = RoundDown(CleanInput(days, -1e9, 1e9, 0.0));
            ClockSince = Now;
            Due = Now;
        }

        /// <summary>Sets the rate of the clock: 1 as in the book, 0 stops it, below 0 it runs
        /// backward; -1e6 to 1e6.</summary>
        public void SetClockRate(double rate)
        {
            double hour = ClockHour();
            DaysThen = ClockDays();
            HourThen = hour;
            ClockSince = Now;
            Due = Now;
            ClockRate = CleanInput(rate, -1e6, 1e6, 1.0);
        }

        /// <summary>How much an option counts now, 0 to 1.</summary>
        double WeatherWeight(uint option)
        {
            double to = option == Weather ? 1.0 : 0.0;
            return Faded(WeatherFrom.At(option), to, WeatherSince, 20.0, Now);
        }

        /// <summary>Choice, set by the game: fair, overcast, with a transition of 20.0 s --
        /// pier.caltrin:14: choice weather { fair, overcast } over 20s</summary>
        public void SetWeather(uint option)
        {
            if (option >= 2u || option == Weather) return;
            for (uint n = 0u; n < 2u; ++n)
            {
                WeatherFrom.Put(n, WeatherWeight(n));
            }
            WeatherSince = Now;
            Weather = option;
            Due = Now;
            Settle();
        }

        /// <summary>Index of a spark of `star_shell` that is free: the lowest that does not live,
        /// else the oldest.</summary>
        double FreeStarShell()
        {
            uint oldest = 0;
            for (uint n = 0; n < 6; ++n)
            {
                if (StarShellBorn.At(n) + StarShellLength.At(n) <= Now) return (double)n;
                if (StarShellBorn.At(n) < StarShellBorn.At(oldest)) oldest = n;
            }
            return (double)oldest;
        }

        /// <summary>Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut,
        /// power_back, all_clear (the game fires these)</summary>
        public void FireFerryDocks()
        {
            double t = Now;
            double dockingStarted = DockingStarted;
            double nextBlareHornFollow0From = Max(HornPlays
                    ? EnvelopeLevel(HornPlace(t, HornAt, HornSince, HornPlays) * 3840.0, HornEnvelope, 48)
                    : 0.0, BlareHornFollow0From * Decay((t - HornChanged) / 0.28));
            bool turns = !(dockingStarted > -1.5e9 && dockingStarted + 24.0 > t);
            HornAt = 0.0;
            HornSince = t;
            HornChanged = t;
            HornPlays = true;
            BlareHornFollow0From = nextBlareHornFollow0From;
            BlastPassed = -1e-9;
            if (turns) DockingStarted = t;
            Due = Now;
            Settle();
        }

        /// <summary>Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut,
        /// power_back, all_clear (the game fires these)</summary>
        public void FirePowerCut()
        {
            double t = Now;
            bool turns = PowerOn;
            double nextPowerFrom = Power(t, PowerOn, PowerSince, PowerFrom);
            if (turns)
            {
                PowerOn = false;
                PowerSince = t;
                PowerFrom = nextPowerFrom;
            }
            Due = Now;
            Settle();
        }

        /// <summary>Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut,
        /// power_back, all_clear (the game fires these)</summary>
        public void FirePowerBack()
        {
            double t = Now;
            bool turns = !PowerOn;
            double nextPowerFrom = Power(t, PowerOn, PowerSince, PowerFrom);
            if (turns)
            {
                PowerOn = true;
                PowerSince = t;
                PowerFrom = nextPowerFrom;
            }
            Due = Now;
            Settle();
        }

        /// <summary>Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut,
        /// power_back, all_clear (the game fires these)</summary>
        public void FireAllClear()
        {
            double t = Now;
            bool turns = !(WarningMode == 0.0);
            double nextWarningFromWatch = WarningWatch(t, WarningMode, WarningEntered, WarningWay,
                WarningFromWatch);
            double nextWarningFromAlarm = WarningAlarm(t, WarningMode, WarningEntered, WarningWay,
                WarningFromAlarm);
            if (turns)
            {
                WarningMode = 0.0;
                WarningEntered = t;
                WarningFromWatch = nextWarningFromWatch;
                WarningFromAlarm = nextWarningFromAlarm;
                WarningWay = 2.0;
            }
            Due = Now;
            Settle();
        }

        /// <summary>Event, fired by the game with place (m), tint (linear Rec. 709) --
        /// pier.caltrin:29: event rocket(place = (30m, 40m, -60m), tint = #ffffff) (a star shell
        /// bursts over the water)</summary>
        public void FireRocket(double placeX, double placeY, double placeZ, double tintR, double tintG,
            double tintB)
        {
            double t = Now;
            RocketPlaceX = CleanInput(placeX, -1e6, 1e6, 30.0);
            RocketPlaceY = CleanInput(placeY, -1e6, 1e6, 40.0);
            RocketPlaceZ = CleanInput(placeZ, -1e6, 1e6, -60.0);
            RocketTintR = CleanInput(tintR, 0.0, 1.0, 1.0);
            RocketTintG = CleanInput(tintG, 0.0, 1.0, 1.0);
            RocketTintB = CleanInput(tintB, 0.0, 1.0, 1.0);
            double starShellCount = StarShellCount;
            double then = starShellCount;
            double slot = FreeStarShell();
            double nextStarShellLength = Lerp(5.0, 7.0, SteadyLevel(then, ChanceKey(Seed, 0x5da0a4f2u), 1.0));
            double nextStarShellPlaceX = RocketPlaceX;
            double nextStarShellPlaceY = RocketPlaceY;
            double nextStarShellPlaceZ = RocketPlaceZ;
            double nextStarShellTintR = RocketTintR;
            double nextStarShellTintG = RocketTintG;
            double nextStarShellTintB = RocketTintB;
            double nextStarShellCount = Min(starShellCount + 1.0, 4e9);
            uint place = (uint)slot;
            StarShellBorn.Put(place, t);
            StarShellLength.Put(place, nextStarShellLength);
            StarShellPlace.Put(3u * place + 0u, nextStarShellPlaceX);
            StarShellPlace.Put(3u * place + 1u, nextStarShellPlaceY);
            StarShellPlace.Put(3u * place + 2u, nextStarShellPlaceZ);
            StarShellTint.Put(3u * place + 0u, nextStarShellTintR);
            StarShellTint.Put(3u * place + 1u, nextStarShellTintG);
            StarShellTint.Put(3u * place + 2u, nextStarShellTintB);
            StarShellCount = nextStarShellCount;
            Due = Now;
            Settle();
        }

        /// <summary>When `ratchet.speeds` happens next.</summary>
        double DueRatchetSpeeds()
        {
            double t = Now;
            return !(RatchetRate == Haul) ? t : 2e9;
        }

        /// <summary>Event, occurs by itself</summary>
        void HappenRatchetSpeeds()
        {
            double t = Now;
            double nextRatchetRate = Haul;
            double nextRatchetAt = Clamp(RatchetPlace(t, Haul, RatchetAt, RatchetSince, RatchetRate), -1e9,
                1e9);
            RatchetRate = nextRatchetRate;
            RatchetAt = nextRatchetAt;
            RatchetSince = t;
        }

        /// <summary>When `warning.rule1.look` happens next.</summary>
        double DueWarningRule1Look()
        {
            double t = Now;
            bool part = Swell > 0.5;
            bool warningRule1Seen = WarningRule1Seen;
            return (part && !warningRule1Seen) || (!part && warningRule1Seen)
                ? Max(t, NextLook(WarningRule1Since))
                : 2e9;
        }

        /// <summary>Event, occurs by itself</summary>
        void HappenWarningRule1Look()
        {
            double t = Now;
            bool part = Swell > 0.5;
            bool warningRule1Seen = WarningRule1Seen;
            bool turns = (part && !warningRule1Seen) || (!part && warningRule1Seen);
            if (turns)
            {
                WarningRule1Seen = part;
                WarningRule1Since = t;
            }
        }

        /// <summary>When `warning.rule1` happens next.</summary>
        double DueWarningRule1()
        {
            double t = Now;
            double warningEntered = WarningEntered;
            return WarningRule1Seen && WarningMode == 0.0
                ? Max(t,
                    Max(NextLook(warningEntered), Max(WarningRule1Since, Max(warningEntered, 0.0)) + 2.0))
                : 2e9;
        }

        /// <summary>Event, occurs by itself</summary>
        void HappenWarningRule1()
        {
            double t = Now;
            double nextWarningFromWatch = WarningWatch(t, WarningMode, WarningEntered, WarningWay,
                WarningFromWatch);
            double nextWarningFromAlarm = WarningAlarm(t, WarningMode, WarningEntered, WarningWay,
                WarningFromAlarm);
            WarningMode = 1.0;
            WarningEntered = t;
            WarningFromWatch = nextWarningFromWatch;
            WarningFromAlarm = nextWarningFromAlarm;
            WarningWay = 0.0;
        }

        /// <summary>When `warning.rule2` happens next.</summary>
        double DueWarningRule2()
        {
            double t = Now;
            return Swell > 0.8 && WarningMode == 1.0 ? Max(t, NextLook(WarningEntered)) : 2e9;
        }

        /// <summary>Event, occurs by itself</summary>
        void HappenWarningRule2()
        {
            double t = Now;
            double nextWarningFromWatch = WarningWatch(t, WarningMode, WarningEntered, WarningWay,
                WarningFromWatch);
            double nextWarningFromAlarm = WarningAlarm(t, WarningMode, WarningEntered, WarningWay,
                WarningFromAlarm);
            WarningMode = 2.0;
            WarningEntered = t;
            WarningFromWatch = nextWarningFromWatch;
            WarningFromAlarm = nextWarningFromAlarm;
            WarningWay = 1.0;
        }

        /// <summary>When `blast` happens next.</summary>
        double DueBlast()
        {
            double t = Now;
            double part = NextPlace(BlastPassed, BlastPlaces, 1);
            return 2e9 > part && HornPlays ? Max(t, HornSince + (part - HornAt)) : 2e9;
        }

        /// <summary>Event, occurs by itself -- pier.caltrin:125: event blast when blare above 60%
        /// rearm below 40%</summary>
        void HappenBlast()
        {
            double notice0Text = Notice0Text;
            double notice0Sent = Notice0Sent;
            double then = notice0Sent;
            double part = SteadyLevel(then, ChanceKey(Seed, 0x8e7e045eu), 1.0) * 2.0;
            double text = 0.0 > notice0Text
                ? Clamp(part - WrapTime(part, 1.0), 0.0, 1.0)
                : notice0Text > 0.0
                ? 0.0
                : 1.0;
            double then_2 = notice0Sent;
            double nextBlastPassed = NextPlace(BlastPassed, BlastPlaces, 1);
            double nextNotice0Sent = Min(notice0Sent + 1.0, 4e9);
            double loud = Lerp(0.5, 0.9, SteadyLevel(then_2, ChanceKey(Seed, 0x97c3dd2fu), 1.0))
                * (1.0 - 0.6 * Mist);
            BlastPassed = nextBlastPassed;
            Notice0Text = text;
            Notice0Sent = nextNotice0Sent;
            Send(0u, text, 0u, loud, 0.0);
        }

        /// <summary>When `fog_lamp.fault` happens next.</summary>
        double DueFogLampFault(uint index)
        {
            uint key = ChanceKey(Seed, 0xc031abeeu);
            double fogLampFaultLast = FogLampFaultLast.At(index);
            double then = FogLampFaultCount.At(index);
            return (fogLampFaultLast > -1.5e9 ? fogLampFaultLast : 0.0)
                + Lerp(4.0, 21.0, SteadyLevel(then, LampKey(key, index), 1.0));
        }

        /// <summary>Event, occurs by itself -- pier.caltrin:150: event fault every 4s..21s (at
        /// different moments for each tube)</summary>
        void HappenFogLampFault(uint index)
        {
            double t = Now;
            uint key = ChanceKey(Seed, 0x52b93c79u);
            uint key_2 = ChanceKey(Seed, 0x17a9cc27u);
            double notice1Text = Notice1Text.At(index);
            double notice1Sent = Notice1Sent.At(index);
            double then = notice1Sent;
            double part = SteadyLevel(then, LampKey(key, index), 1.0);
            double part_2 = part * 3.0;
            double part_3 = part * 2.0;
            double part_4 = Clamp(part_3 - WrapTime(part_3, 1.0), 0.0, 1.0);
            double text = 0.0 > notice1Text
                ? Clamp(part_2 - WrapTime(part_2, 1.0), 0.0, 2.0)
                : notice1Text > part_4
                ? part_4
                : part_4 + 1.0;
            double then_2 = notice1Sent;
            double nextFogLampFaultCount = Min(FogLampFaultCount.At(index) + 1.0, 4e9);
            double nextNotice1Sent = Min(notice1Sent + 1.0, 4e9);
            double loud = Lerp(0.4, 0.8, SteadyLevel(then_2, LampKey(key_2, index), 1.0));
            FogLampFaultLast.Put(index, t);
            FogLampFaultCount.Put(index, nextFogLampFaultCount);
            Notice1Text.Put(index, text);
            Notice1Sent.Put(index, nextNotice1Sent);
            Send(1u, text, index, loud, 12.0);
        }

        /// <summary>When `gate_opens` happens next.</summary>
        double DueGateOpens()
        {
            double dockingStarted = DockingStarted;
            double part = dockingStarted + 4.0;
            return dockingStarted > -1.5e9 && part > GateOpensLast ? part : 2e9;
        }

        /// <summary>Event, occurs by itself -- pier.caltrin:257: +1.5s mark gate_opens</summary>
        void HappenGateOpens()
        {
            double t = Now;
            GateOpensLast = t;
        }

        /// <summary>Input, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:10: input
        /// mist = 30% in 0%..100% (fog density, set by the game)</summary>
        public void SetMist(double to)
        {
            Mist = CleanInput(to, 0.0, 1.0, 0.3);
            Due = Now;
            Settle();
        }

        /// <summary>Input, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:11: input
        /// swell = 20% in 0%..100% (height of the sea)</summary>
        public void SetSwell(double to)
        {
            Swell = CleanInput(to, 0.0, 1.0, 0.2);
            Due = Now;
            Settle();
        }

        /// <summary>Input, set by the game: number, kept within 1.0..366.0 -- pier.caltrin:12:
        /// input season = 324 in 1..366 (day of the year, 20 November by default)</summary>
        public void SetSeason(double to)
        {
            Season = CleanInput(to, 1.0, 366.0, 324.0);
            Due = Now;
            Settle();
        }

        /// <summary>Input, set by the game: number, kept within 0.0..2.0 -- pier.caltrin:13: input
        /// haul = 100% in 0%..200% (speed of the winch in the workshop)</summary>
        public void SetHaul(double to)
        {
            Haul = CleanInput(to, 0.0, 2.0, 1.0);
            Due = Now;
            Settle();
        }

        /// <summary>Input of 12, index 0 to 11, set by the game: number, kept within 0.0..1.0 --
        /// pier.caltrin:158: input cock = 100% in 0%..100% (gas supply of each lamp)</summary>
        public void SetQuayCock(uint index, double to)
        {
            if (index >= 12u) return;
            QuayCock.Put(index, CleanInput(to, 0.0, 1.0, 1.0));
            Due = Now;
            Settle();
        }

        /// <summary>Input of 3, index 0 to 2, set by the game: number, kept within 0.0..2.0 --
        /// pier.caltrin:208: input loudness = 60% in 0%..200%</summary>
        public void SetBoardLoudness(uint index, double to)
        {
            if (index >= 3u) return;
            BoardLoudness.Put(index, CleanInput(to, 0.0, 2.0, 0.6));
            Due = Now;
            Settle();
        }

        /// <summary>A lamp of 8, index 0 to 7: spot -- pier.caltrin:136: light mast[8] spot (eight
        /// lamps, each with its own buzz)</summary>
        public struct Mast
        {
            public float Intensity; // lm -- pier.caltrin:142: intensity 6200lm * dark * buzzing() * supply
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:141: color sodium
            public float ReachInner; // m, full light up to this distance -- pier.caltrin:140: reach 1m..14m
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:140: reach 1m..14m
            /// <summary>degrees, full angle, full light inside -- pier.caltrin:139: cone
            /// 20deg..50deg</summary>
            public float ConeInner;
            /// <summary>degrees, full angle, none from here on -- pier.caltrin:139: cone
            /// 20deg..50deg</summary>
            public float ConeOuter;
            /// <summary>m -- pier.caltrin:137: position (0m, 6m, 0m), (7m, 0m, 0m)</summary>
            public float PositionX, PositionY, PositionZ;
            public float AimX, AimY, AimZ; // direction, of length 1 -- pier.caltrin:138: aim (0m, -1m, 0m)
        }

        /// <summary>A lamp of 3, index 0 to 2: area -- pier.caltrin:146: light fog_lamp[3] area
        /// (old tubes on the same generator; they fail and strike again)</summary>
        public struct FogLamp
        {
            /// <summary>cd -- pier.caltrin:154: intensity 90cd * needed * alive * held(94%..100%,
            /// every 20ms..60ms) * supply</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:149: color #ffc37a
            /// <summary>m, no light from this distance on -- pier.caltrin:148: reach 12m - 10m *
            /// mist</summary>
            public float ReachOuter;
            /// <summary>m -- pier.caltrin:147: position (4m, 4m, -3m), (18m, 0m, 0m)</summary>
            public float PositionX, PositionY, PositionZ;
        }

        /// <summary>A lamp of 12, index 0 to 11: point -- pier.caltrin:161: light glow point {
        /// color 2450K; reach 9m; intensity strength * lit * 60% }</summary>
        public struct QuayGlow
        {
            public float Intensity; // lm
            public float ColorR, ColorG, ColorB; // linear Rec. 709
            public float ReachOuter; // m, no light from this distance on
            public float PositionX, PositionY, PositionZ; // m
        }

        /// <summary>A lamp of 12, index 0 to 11: point -- pier.caltrin:162: light core point {
        /// color 2450K; reach 9m; intensity strength * flame; offset wander(radius 3cm, r...</summary>
        public struct QuayCore
        {
            public float Intensity; // lm
            public float ColorR, ColorG, ColorB; // linear Rec. 709
            public float ReachOuter; // m, no light from this distance on
            public float PositionX, PositionY, PositionZ; // m
            public float OffsetX, OffsetY, OffsetZ; // m, added to the position
        }

        /// <summary>A lamp: point -- pier.caltrin:168: light ticket_hatch point (open to the wind)</summary>
        public struct TicketHatch
        {
            public float Intensity; // lm -- pier.caltrin:172: intensity 420lm * guttering(50%, draft 250ms)
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:171: color 2700K
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:170: reach 5m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:169: position (31m, 2m, 5m)
        }

        /// <summary>A lamp of 6, index 0 to 5: area -- pier.caltrin:175: light pane[6] area
        /// (workshop windows, each lit at a different dusk level)</summary>
        public struct Pane
        {
            public float Intensity; // cd -- pier.caltrin:182: intensity 55cd * dim * awake
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:179: color #ffcf9a
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:178: reach 6m
            /// <summary>m -- pier.caltrin:176: position (44m, 2m, -5m), (1.8m, 0m, 0m)</summary>
            public float PositionX, PositionY, PositionZ;
            public float AimX, AimY, AimZ; // direction, of length 1 -- pier.caltrin:177: aim (0m, 0m, 1m)
        }

        /// <summary>A lamp: point -- pier.caltrin:185: light weld point (welding in runs with
        /// pauses)</summary>
        public struct Weld
        {
            /// <summary>lm -- pier.caltrin:189: intensity 20_000lm * bursts(on 400ms..2.5s, off
            /// 700ms..5s) * held(30%..100%, every 15ms..40ms)</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:188: color arc
            public float ReachInner; // m, full light up to this distance -- pier.caltrin:187: reach 0.5m..30m
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:187: reach 0.5m..30m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:186: position (48m, 1m, -2m)
            public bool Shadows; // whether the lamp casts shadows -- pier.caltrin:190: shadows on
        }

        /// <summary>A lamp: point -- pier.caltrin:193: light bench_lamp point (the winch pulls its
        /// voltage down at each tooth)</summary>
        public struct BenchLamp
        {
            /// <summary>lm -- pier.caltrin:197: intensity 640lm * (100% - 40% * follow(ratchet,
            /// band high, attack 5ms, release 140ms))</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:196: color 2700K
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:195: reach 7m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:194: position (46m, 2.4m, -3m)
        }

        /// <summary>A lamp: point -- pier.caltrin:200: light horn_lamp point (lights up with the
        /// horn)</summary>
        public struct HornLamp
        {
            public float Intensity; // lm -- pier.caltrin:204: intensity 4000lm * blare
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:203: color 3000K
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:202: reach 20m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:201: position (60m, 8m, 0m)
        }

        /// <summary>A lamp of 3, index 0 to 2: area -- pier.caltrin:209: light strip area { color
        /// #ffd9a0; reach 5m; intensity 60cd * later(blare, by 80ms) * loudness }</summary>
        public struct BoardStrip
        {
            public float Intensity; // cd
            public float ColorR, ColorG, ColorB; // linear Rec. 709
            public float ReachOuter; // m, no light from this distance on
            public float PositionX, PositionY, PositionZ; // m
        }

        /// <summary>A lamp: point -- pier.caltrin:213: light buoy_lamp point (off the pier's head,
        /// flashes with the bell)</summary>
        public struct BuoyLamp
        {
            public float Intensity; // cd -- pier.caltrin:217: intensity 700cd * (10% + 90% * stroke)
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:216: color #9dffb0
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:215: reach 16m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:214: position (72m, 2m, 18m)
        }

        /// <summary>A lamp: point -- pier.caltrin:220: light harbor_light point (two flashes every
        /// six seconds)</summary>
        public struct HarborLight
        {
            /// <summary>cd -- pier.caltrin:223: intensity 2600cd * rhythm(on 400ms, off 800ms, on
            /// 400ms, off 4.4s)</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:222: color #9dffb0
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:221: position (60m, 14m, 0m)
        }

        /// <summary>A lamp of 4, index 0 to 3: point -- pier.caltrin:226: light standby[4] point
        /// (standby lamps of the winches, never in step)</summary>
        public struct Standby
        {
            public float Intensity; // cd -- pier.caltrin:230: intensity 12cd * alternate(breathing, scatter)
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:229: color #ff5a1f
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:228: reach 2m
            /// <summary>m -- pier.caltrin:227: position (12m, 1m, 2m), (9m, 0m, 0m)</summary>
            public float PositionX, PositionY, PositionZ;
        }

        /// <summary>A lamp of 16, index 0 to 15: point -- pier.caltrin:233: light edge_lamp[16]
        /// point (a chase along the pier's edge)</summary>
        public struct EdgeLamp
        {
            /// <summary>cd -- pier.caltrin:237: intensity 18cd * later(sine(20%..100%, every 2.9s),
            /// each 110ms)</summary>
            public float Intensity;
            /// <summary>linear Rec. 709 -- pier.caltrin:236: color hue(#ffb000, by
            /// drawn(-6deg..6deg))</summary>
            public float ColorR, ColorG, ColorB;
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:235: reach 2m
            /// <summary>m -- pier.caltrin:234: position (0m, 0.2m, 12m), (3.5m, 0m, 0m)</summary>
            public float PositionX, PositionY, PositionZ;
        }

        /// <summary>A lamp: point -- pier.caltrin:240: light gangway point</summary>
        public struct Gangway
        {
            public float Intensity; // lm -- pier.caltrin:244: intensity 320lm * once(warming)
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:243: color 3500K
            public float ReachInner; // m, full light up to this distance -- pier.caltrin:242: reach 1m..8m
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:242: reach 1m..8m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:241: position (22m, 2m, 4m)
        }

        /// <summary>A lamp: point -- pier.caltrin:247: light gate_lamp point</summary>
        public struct GateLamp
        {
            public float Intensity; // cd -- pier.caltrin:251: intensity 40cd * play(opening, at gate_opens)
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:250: color #58ff9a
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:249: reach 3m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:248: position (22m, 1m, 8m)
        }

        /// <summary>A lamp: point -- pier.caltrin:262: light warning_lamp point (red, at the pier's
        /// head)</summary>
        public struct WarningLamp
        {
            /// <summary>cd -- pier.caltrin:266: intensity 900cd * pick(warning, calm 0%, watch
            /// sine(10%..50%, every 3.1s), alarm rhythm(on 300ms,...</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:265: color #ff2a10
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:264: reach 12m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:263: position (60m, 10m, 0m)
        }

        /// <summary>A lamp of 6, index 0 to 5: point -- pier.caltrin:269: spark star_shell[6] point
        /// at rocket (star shells on small parachutes)</summary>
        public struct StarShell
        {
            /// <summary>cd -- pier.caltrin:276: intensity 9000cd * fading(life) * held(85%..100%,
            /// every 40ms..120ms)</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:275: color rocket.tint
            public float ReachOuter; // m, no light from this distance on -- pier.caltrin:274: reach 90m
            public float PositionX, PositionY, PositionZ; // m -- pier.caltrin:272: position rocket.place
            /// <summary>m, added to the position -- pier.caltrin:273: offset (0m, life * -12m, 0m)</summary>
            public float OffsetX, OffsetY, OffsetZ;
        }

        /// <summary>A lamp: directional -- pier.caltrin:285: light sunlight directional</summary>
        public struct Sunlight
        {
            /// <summary>lx -- pier.caltrin:288: intensity 60_000lx * sun.strength * pick(weather,
            /// fair 1 - 80% * mist, overcast 0%)</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:287: color sun.color
            public float AimX, AimY, AimZ; // direction, of length 1 -- pier.caltrin:286: aim sun.aim
            public bool Shadows; // whether the lamp casts shadows -- pier.caltrin:289: shadows on
        }

        /// <summary>A lamp: directional -- pier.caltrin:292: light moonlight directional</summary>
        public struct Moonlight
        {
            /// <summary>lx -- pier.caltrin:295: intensity 0.25lx * moon.strength * pick(weather,
            /// fair 1 - mist, overcast 0%)</summary>
            public float Intensity;
            public float ColorR, ColorG, ColorB; // linear Rec. 709 -- pier.caltrin:294: color #b8ccff
            public float AimX, AimY, AimZ; // direction, of length 1 -- pier.caltrin:293: aim moon.aim
        }

        /// <summary>A lamp: ambient -- pier.caltrin:298: light deck ambient</summary>
        public struct Deck
        {
            /// <summary>lx -- pier.caltrin:300: intensity 3lx * (40% + 5% * supply) + 2500lx *
            /// overhead</summary>
            public float Intensity;
            /// <summary>linear Rec. 709 -- pier.caltrin:299: color mix(#5a6f86, sky, by
            /// sun.daylight)</summary>
            public float ColorR, ColorG, ColorB;
        }

        /// <summary>An output -- pier.caltrin:303: output sky_tint = sky</summary>
        public struct SkyTint
        {
            public float ValueR, ValueG, ValueB; // linear Rec. 709
        }

        /// <summary>An output -- pier.caltrin:304: output haze_tint = mix(watch.tint, #ffb36b, by
        /// 30% * dark) (haze takes the color of the light a...)</summary>
        public struct HazeTint
        {
            public float ValueR, ValueG, ValueB; // linear Rec. 709
        }

        /// <summary>An output -- pier.caltrin:305: output fog = mist * pick(watch, night 130%,
        /// morning 160%, others 100%)</summary>
        public struct Fog
        {
            public float Value; // number
        }

        /// <summary>An output -- pier.caltrin:306: output view_range = mix(900m + 3100m * overhead,
        /// 150m, by mist)</summary>
        public struct ViewRange
        {
            public float Value; // m
        }

        /// <summary>An output -- pier.caltrin:308: output drumming = follow(rain, band mid, attack
        /// 5ms, release 90ms) * pick(weather, fair 0%, overc...</summary>
        public struct Drumming
        {
            public float Value; // number
        }

        /// <summary>An output of 400, index 0 to 399 -- pier.caltrin:310: output stars[400] (a
        /// field of stars for the sky)</summary>
        public struct Stars
        {
            /// <summary>number -- pier.caltrin:312: level clear * held(40%..100%, every
            /// 200ms..900ms, over 60%)</summary>
            public float Level;
            /// <summary>linear Rec. 709 -- pier.caltrin:313: tint drawn(#ffd9b0, #ffffff, #b8ccff)</summary>
            public float TintR, TintG, TintB;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillMast(uint first, Mast[] lamps)
        {
            double hour = ClockHour();
            double t = Now;
            double darkNow = Dark(hour, Season);
            double intensityProduct = 6200.0 * darkNow;
            uint intensityKey = ChanceKey(Seed, 0x1d19816bu);
            double supplyNow = Supply(t);
            uint intensityKey_2 = ChanceKey(Seed, 0xd065fa35u);
            double powerNow = Power(t, PowerOn, PowerSince, PowerFrom);
            double intensityMix = Lerp(0.03, 1.0, powerNow);
            bool intensityIf = 1.0 > powerNow;
            double coneLong = Lerp(0.6143787151789374, 0.8260104981374541, powerNow);
            double coneMiddle = Lerp(0.5425139545956855, 0.739707391072413, powerNow);
            double coneShort = Lerp(0.41820949404943747, 0.5629148554993054, powerNow);
            double colorNowR = intensityIf ? LightR(coneLong, coneMiddle, coneShort) : 1.0;
            double colorNowG = intensityIf ? LightG(coneLong, coneMiddle, coneShort) : 0.28053215;
            double colorNowB = intensityIf ? LightB(coneLong, coneMiddle, coneShort) : 0.017522722;
            double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
            double colorNowR_2 = Share(colorNowR, brightest);
            double colorNowG_2 = Share(colorNowG, brightest);
            double colorNowB_2 = Share(colorNowB, brightest);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                lamps[n].Intensity = ToSingle(((double)index == 5.0
                            ? intensityProduct * Buzzing(t, LampKey(intensityKey, index), 0.2) * supplyNow
                            : intensityProduct * Buzzing(t, LampKey(intensityKey_2, index), 0.85) * supplyNow)
                        * intensityMix
                        * brightest);
                lamps[n].ColorR = (float)colorNowR_2;
                lamps[n].ColorG = (float)colorNowG_2;
                lamps[n].ColorB = (float)colorNowB_2;
                lamps[n].ReachInner = 1.0f;
                lamps[n].ReachOuter = 14.0f;
                lamps[n].ConeInner = 20.0f;
                lamps[n].ConeOuter = 50.0f;
                lamps[n].PositionX = (float)(7.0 * (double)index);
                lamps[n].PositionY = 6.0f;
                lamps[n].PositionZ = 0.0f;
                lamps[n].AimX = 0.0f;
                lamps[n].AimY = -1.0f;
                lamps[n].AimZ = 0.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public Mast ReadMast(uint index)
        {
            double hour = ClockHour();
            double t = Now;
            double darkNow = Dark(hour, Season);
            double intensityProduct = 6200.0 * darkNow;
            uint intensityKey = ChanceKey(Seed, 0x1d19816bu);
            double supplyNow = Supply(t);
            uint intensityKey_2 = ChanceKey(Seed, 0xd065fa35u);
            double powerNow = Power(t, PowerOn, PowerSince, PowerFrom);
            double intensityMix = Lerp(0.03, 1.0, powerNow);
            bool intensityIf = 1.0 > powerNow;
            double coneLong = Lerp(0.6143787151789374, 0.8260104981374541, powerNow);
            double coneMiddle = Lerp(0.5425139545956855, 0.739707391072413, powerNow);
            double coneShort = Lerp(0.41820949404943747, 0.5629148554993054, powerNow);
            double colorNowR = intensityIf ? LightR(coneLong, coneMiddle, coneShort) : 1.0;
            double colorNowG = intensityIf ? LightG(coneLong, coneMiddle, coneShort) : 0.28053215;
            double colorNowB = intensityIf ? LightB(coneLong, coneMiddle, coneShort) : 0.017522722;
            double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
            double colorNowR_2 = Share(colorNowR, brightest);
            double colorNowG_2 = Share(colorNowG, brightest);
            double colorNowB_2 = Share(colorNowB, brightest);
            Mast lamp;
            lamp.Intensity = ToSingle(((double)index == 5.0
                        ? intensityProduct * Buzzing(t, LampKey(intensityKey, index), 0.2) * supplyNow
                        : intensityProduct * Buzzing(t, LampKey(intensityKey_2, index), 0.85) * supplyNow)
                    * intensityMix
                    * brightest);
            lamp.ColorR = (float)colorNowR_2;
            lamp.ColorG = (float)colorNowG_2;
            lamp.ColorB = (float)colorNowB_2;
            lamp.ReachInner = 1.0f;
            lamp.ReachOuter = 14.0f;
            lamp.ConeInner = 20.0f;
            lamp.ConeOuter = 50.0f;
            lamp.PositionX = (float)(7.0 * (double)index);
            lamp.PositionY = 6.0f;
            lamp.PositionZ = 0.0f;
            lamp.AimX = 0.0f;
            lamp.AimY = -1.0f;
            lamp.AimZ = 0.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillFogLamp(uint first, FogLamp[] lamps)
        {
            double hour = ClockHour();
            double t = Now;
            double mist = Mist;
            double needed = Max(Dark(hour, Season), EaseSmooth(Clamp((mist - 0.5) / 0.2, 0.0, 1.0)));
            double intensityProduct = 90.0 * needed;
            uint intensityKey = ChanceKey(Seed, 0xe338c449u);
            double supplyNow = Supply(t);
            double powerNow = Power(t, PowerOn, PowerSince, PowerFrom);
            double intensityMix = Lerp(0.03, 1.0, powerNow);
            bool intensityIf = 1.0 > powerNow;
            double coneLong = Lerp(0.6143787151789374, 0.8941695352865264, powerNow);
            double coneMiddle = Lerp(0.5425139545956855, 0.8454330596660657, powerNow);
            double coneShort = Lerp(0.41820949404943747, 0.7144274115928344, powerNow);
            double colorNowR = intensityIf ? LightR(coneLong, coneMiddle, coneShort) : 1.0;
            double colorNowG = intensityIf ? LightG(coneLong, coneMiddle, coneShort) : 0.54572445;
            double colorNowB = intensityIf ? LightB(coneLong, coneMiddle, coneShort) : 0.19461784;
            double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
            double colorNowR_2 = Share(colorNowR, brightest);
            double colorNowG_2 = Share(colorNowG, brightest);
            double colorNowB_2 = Share(colorNowB, brightest);
            double reachOuterSum = 12.0 - 10.0 * mist;
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double fogLampFaultLast = FogLampFaultLast.At(AtMost(index, 2u));
                double alive = fogLampFaultLast > -1.5e9 ? Striking(Max(t - fogLampFaultLast, 0.0)) : 1.0;
                lamps[n].Intensity = ToSingle(intensityProduct
                        * alive
                        * (0.94
                            + 0.06000000000000005
                                * HeldLevel(t, LampKey(intensityKey, index), 25.0, 0.24999999999999994))
                        * supplyNow
                        * intensityMix
                        * brightest);
                lamps[n].ColorR = (float)colorNowR_2;
                lamps[n].ColorG = (float)colorNowG_2;
                lamps[n].ColorB = (float)colorNowB_2;
                lamps[n].ReachOuter = (float)reachOuterSum;
                lamps[n].PositionX = (float)(4.0 + 18.0 * (double)index);
                lamps[n].PositionY = 4.0f;
                lamps[n].PositionZ = -3.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public FogLamp ReadFogLamp(uint index)
        {
            double hour = ClockHour();
            double t = Now;
            double mist = Mist;
            double needed = Max(Dark(hour, Season), EaseSmooth(Clamp((mist - 0.5) / 0.2, 0.0, 1.0)));
            double intensityProduct = 90.0 * needed;
            uint intensityKey = ChanceKey(Seed, 0xe338c449u);
            double supplyNow = Supply(t);
            double powerNow = Power(t, PowerOn, PowerSince, PowerFrom);
            double intensityMix = Lerp(0.03, 1.0, powerNow);
            bool intensityIf = 1.0 > powerNow;
            double coneLong = Lerp(0.6143787151789374, 0.8941695352865264, powerNow);
            double coneMiddle = Lerp(0.5425139545956855, 0.8454330596660657, powerNow);
            double coneShort = Lerp(0.41820949404943747, 0.7144274115928344, powerNow);
            double colorNowR = intensityIf ? LightR(coneLong, coneMiddle, coneShort) : 1.0;
            double colorNowG = intensityIf ? LightG(coneLong, coneMiddle, coneShort) : 0.54572445;
            double colorNowB = intensityIf ? LightB(coneLong, coneMiddle, coneShort) : 0.19461784;
            double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
            double colorNowR_2 = Share(colorNowR, brightest);
            double colorNowG_2 = Share(colorNowG, brightest);
            double colorNowB_2 = Share(colorNowB, brightest);
            double reachOuterSum = 12.0 - 10.0 * mist;
            double fogLampFaultLast = FogLampFaultLast.At(AtMost(index, 2u));
            double alive = fogLampFaultLast > -1.5e9 ? Striking(Max(t - fogLampFaultLast, 0.0)) : 1.0;
            FogLamp lamp;
            lamp.Intensity = ToSingle(intensityProduct
                    * alive
                    * (0.94
                        + 0.06000000000000005
                            * HeldLevel(t, LampKey(intensityKey, index), 25.0, 0.24999999999999994))
                    * supplyNow
                    * intensityMix
                    * brightest);
            lamp.ColorR = (float)colorNowR_2;
            lamp.ColorG = (float)colorNowG_2;
            lamp.ColorB = (float)colorNowB_2;
            lamp.ReachOuter = (float)reachOuterSum;
            lamp.PositionX = (float)(4.0 + 18.0 * (double)index);
            lamp.PositionY = 4.0f;
            lamp.PositionZ = -3.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillQuayGlow(uint first, QuayGlow[] lamps)
        {
            double hour = ClockHour();
            double sunHeightNow = SunHeight(hour, Season);
            uint intensityKey = ChanceKey(Seed, 0x5cf5239bu);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double cock = QuayCock.At(AtMost(index, 11u));
                double lit = cock
                    * (1.0
                        - EaseSmooth(Clamp((sunHeightNow
                                        - (-5.0 + 5.0 * ChancePhase(LampKey(intensityKey, index)) - 0.1))
                                    / 0.2, 0.0, 1.0)));
                lamps[n].Intensity = ToSingle(700.0 * lit * 0.6);
                lamps[n].ColorR = 1.0f;
                lamps[n].ColorG = 0.36097503f;
                lamps[n].ColorB = 0.060201444f;
                lamps[n].ReachOuter = 9.0f;
                lamps[n].PositionX = (float)(5.0 * (double)index);
                lamps[n].PositionY = 3.0f;
                lamps[n].PositionZ = 9.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public QuayGlow ReadQuayGlow(uint index)
        {
            double hour = ClockHour();
            double sunHeightNow = SunHeight(hour, Season);
            uint intensityKey = ChanceKey(Seed, 0x5cf5239bu);
            double cock = QuayCock.At(AtMost(index, 11u));
            double lit = cock
                * (1.0
                    - EaseSmooth(Clamp((sunHeightNow
                                    - (-5.0 + 5.0 * ChancePhase(LampKey(intensityKey, index)) - 0.1))
                                / 0.2, 0.0, 1.0)));
            QuayGlow lamp;
            lamp.Intensity = ToSingle(700.0 * lit * 0.6);
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.36097503f;
            lamp.ColorB = 0.060201444f;
            lamp.ReachOuter = 9.0f;
            lamp.PositionX = (float)(5.0 * (double)index);
            lamp.PositionY = 3.0f;
            lamp.PositionZ = 9.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillQuayCore(uint first, QuayCore[] lamps)
        {
            double hour = ClockHour();
            double t = Now;
            double sunHeightNow = SunHeight(hour, Season);
            uint intensityKey = ChanceKey(Seed, 0x5cf5239bu);
            uint intensityKey_2 = ChanceKey(Seed, 0x67243f2fu);
            uint offsetKey = ChanceKey(Seed, 0xb42e7750u);
            uint offsetKey_2 = ChanceKey(Seed, 0x43cdf659u);
            uint offsetKey_3 = ChanceKey(Seed, 0x12c5244cu);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double cock = QuayCock.At(AtMost(index, 11u));
                double lit = cock
                    * (1.0
                        - EaseSmooth(Clamp((sunHeightNow
                                        - (-5.0 + 5.0 * ChancePhase(LampKey(intensityKey, index)) - 0.1))
                                    / 0.2, 0.0, 1.0)));
                double flame = lit * Guttering(t, LampKey(intensityKey_2, index), 0.35, 0.4);
                double offsetSum = DriftLevel(t, LampKey(offsetKey, index), 4.0, 1) * 2.0 - 1.0;
                double offsetSum_2 = DriftLevel(t, LampKey(offsetKey_2, index), 4.0, 1) * 2.0 - 1.0;
                double offsetSum_3 = DriftLevel(t, LampKey(offsetKey_3, index), 4.0, 1) * 2.0 - 1.0;
                lamps[n].Intensity = ToSingle(700.0 * flame);
                lamps[n].ColorR = 1.0f;
                lamps[n].ColorG = 0.36097503f;
                lamps[n].ColorB = 0.060201444f;
                lamps[n].ReachOuter = 9.0f;
                lamps[n].PositionX = (float)(5.0 * (double)index);
                lamps[n].PositionY = 3.0f;
                lamps[n].PositionZ = 9.0f;
                lamps[n].OffsetX = ToSingle(InBall(offsetSum, offsetSum_2, offsetSum_3) * 0.03);
                lamps[n].OffsetY = ToSingle(InBall(offsetSum_2, offsetSum_3, offsetSum) * 0.03);
                lamps[n].OffsetZ = ToSingle(InBall(offsetSum_3, offsetSum, offsetSum_2) * 0.03);
            }
        }

        /// <summary>Reads one lamp.</summary>
        public QuayCore ReadQuayCore(uint index)
        {
            double hour = ClockHour();
            double t = Now;
            double sunHeightNow = SunHeight(hour, Season);
            uint intensityKey = ChanceKey(Seed, 0x5cf5239bu);
            uint intensityKey_2 = ChanceKey(Seed, 0x67243f2fu);
            uint offsetKey = ChanceKey(Seed, 0xb42e7750u);
            uint offsetKey_2 = ChanceKey(Seed, 0x43cdf659u);
            uint offsetKey_3 = ChanceKey(Seed, 0x12c5244cu);
            double cock = QuayCock.At(AtMost(index, 11u));
            double lit = cock
                * (1.0
                    - EaseSmooth(Clamp((sunHeightNow
                                    - (-5.0 + 5.0 * ChancePhase(LampKey(intensityKey, index)) - 0.1))
                                / 0.2, 0.0, 1.0)));
            double flame = lit * Guttering(t, LampKey(intensityKey_2, index), 0.35, 0.4);
            double offsetSum = DriftLevel(t, LampKey(offsetKey, index), 4.0, 1) * 2.0 - 1.0;
            double offsetSum_2 = DriftLevel(t, LampKey(offsetKey_2, index), 4.0, 1) * 2.0 - 1.0;
            double offsetSum_3 = DriftLevel(t, LampKey(offsetKey_3, index), 4.0, 1) * 2.0 - 1.0;
            QuayCore lamp;
            lamp.Intensity = ToSingle(700.0 * flame);
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.36097503f;
            lamp.ColorB = 0.060201444f;
            lamp.ReachOuter = 9.0f;
            lamp.PositionX = (float)(5.0 * (double)index);
            lamp.PositionY = 3.0f;
            lamp.PositionZ = 9.0f;
            lamp.OffsetX = ToSingle(InBall(offsetSum, offsetSum_2, offsetSum_3) * 0.03);
            lamp.OffsetY = ToSingle(InBall(offsetSum_2, offsetSum_3, offsetSum) * 0.03);
            lamp.OffsetZ = ToSingle(InBall(offsetSum_3, offsetSum, offsetSum_2) * 0.03);
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public TicketHatch ReadTicketHatch()
        {
            double t = Now;
            TicketHatch lamp;
            lamp.Intensity = (float)(420.0 * Guttering(t, ChanceKey(Seed, 0x94bee2e0u), 0.5, 0.25));
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.41525516f;
            lamp.ColorB = 0.099098265f;
            lamp.ReachOuter = 5.0f;
            lamp.PositionX = 31.0f;
            lamp.PositionY = 2.0f;
            lamp.PositionZ = 5.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillPane(uint first, Pane[] lamps)
        {
            double hour = ClockHour();
            double sunHeightNow = SunHeight(hour, Season);
            uint intensityKey = ChanceKey(Seed, 0xe976a432u);
            uint intensityKey_2 = ChanceKey(Seed, 0xd6c86fb2u);
            double watchNightNow = WatchNight(hour);
            double watchMorningNow = WatchMorning(hour);
            double watchForenoonNow = WatchForenoon(hour);
            double watchEveningNow = WatchEvening(hour);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double dim = 1.0
                    - EaseSmooth(Clamp((sunHeightNow
                                    - (-3.0 + 8.0 * ChancePhase(LampKey(intensityKey, index)) - 0.15))
                                / 0.3, 0.0, 1.0));
                double intensityTime = ChancePhase(LampKey(intensityKey_2, index));
                double intensityChoice = 0.3333333333333333 > intensityTime
                    ? 0.0
                    : 0.6666666666666666 > intensityTime
                    ? 0.0
                    : 0.4;
                double awake = Min(Max(intensityChoice * watchNightNow
                            + watchMorningNow
                            + watchForenoonNow
                            + watchEveningNow, Min(Min(Min(intensityChoice, 1.0), 1.0), 1.0)),
                    Max(Max(Max(intensityChoice, 1.0), 1.0), 1.0));
                lamps[n].Intensity = ToSingle(55.0 * dim * awake);
                lamps[n].ColorR = 1.0f;
                lamps[n].ColorG = 0.6239604f;
                lamps[n].ColorB = 0.3231432f;
                lamps[n].ReachOuter = 6.0f;
                lamps[n].PositionX = (float)(44.0 + 1.8 * (double)index);
                lamps[n].PositionY = 2.0f;
                lamps[n].PositionZ = -5.0f;
                lamps[n].AimX = 0.0f;
                lamps[n].AimY = 0.0f;
                lamps[n].AimZ = 1.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public Pane ReadPane(uint index)
        {
            double hour = ClockHour();
            double sunHeightNow = SunHeight(hour, Season);
            uint intensityKey = ChanceKey(Seed, 0xe976a432u);
            uint intensityKey_2 = ChanceKey(Seed, 0xd6c86fb2u);
            double watchNightNow = WatchNight(hour);
            double watchMorningNow = WatchMorning(hour);
            double watchForenoonNow = WatchForenoon(hour);
            double watchEveningNow = WatchEvening(hour);
            double dim = 1.0
                - EaseSmooth(Clamp((sunHeightNow
                                - (-3.0 + 8.0 * ChancePhase(LampKey(intensityKey, index)) - 0.15))
                            / 0.3, 0.0, 1.0));
            double intensityTime = ChancePhase(LampKey(intensityKey_2, index));
            double intensityChoice = 0.3333333333333333 > intensityTime
                ? 0.0
                : 0.6666666666666666 > intensityTime
                ? 0.0
                : 0.4;
            double awake = Min(Max(intensityChoice * watchNightNow
                        + watchMorningNow
                        + watchForenoonNow
                        + watchEveningNow, Min(Min(Min(intensityChoice, 1.0), 1.0), 1.0)),
                Max(Max(Max(intensityChoice, 1.0), 1.0), 1.0));
            Pane lamp;
            lamp.Intensity = ToSingle(55.0 * dim * awake);
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.6239604f;
            lamp.ColorB = 0.3231432f;
            lamp.ReachOuter = 6.0f;
            lamp.PositionX = (float)(44.0 + 1.8 * (double)index);
            lamp.PositionY = 2.0f;
            lamp.PositionZ = -5.0f;
            lamp.AimX = 0.0f;
            lamp.AimY = 0.0f;
            lamp.AimZ = 1.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Weld ReadWeld()
        {
            double t = Now;
            Weld lamp;
            lamp.Intensity = ToSingle(2e4
                    * BurstLevel(t, ChanceKey(Seed, 0x57ce2f76u), 0.4, 2.5, 0.7, 5.0, BurstsOn, BurstsOff, 64)
                    * (0.3
                        + 0.7
                            * HeldLevel(t, ChanceKey(Seed, 0xac037c6fu), 36.36363636363637,
                                0.2272727272727273)));
            lamp.ColorR = 0.6389992f;
            lamp.ColorG = 0.7163725f;
            lamp.ColorB = 1.0f;
            lamp.ReachInner = 0.5f;
            lamp.ReachOuter = 30.0f;
            lamp.PositionX = 48.0f;
            lamp.PositionY = 1.0f;
            lamp.PositionZ = -2.0f;
            lamp.Shadows = true;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public BenchLamp ReadBenchLamp()
        {
            double t = Now;
            BenchLamp lamp;
            lamp.Intensity = (float)(640.0
                * (1.0
                    - 0.4
                        * EnvelopeLevel(WrapTime(RatchetPlace(t, Haul, RatchetAt, RatchetSince, RatchetRate),
                                    4.0)
                                * 3840.0, RatchetEnvelope, 173)));
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.41525516f;
            lamp.ColorB = 0.099098265f;
            lamp.ReachOuter = 7.0f;
            lamp.PositionX = 46.0f;
            lamp.PositionY = 2.4f;
            lamp.PositionZ = -3.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public HornLamp ReadHornLamp()
        {
            double t = Now;
            HornLamp lamp;
            lamp.Intensity = ToSingle(4e3
                    * Blare(t, HornAt, HornSince, HornPlays, HornChanged, BlareHornFollow0From));
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.476738f;
            lamp.ColorB = 0.1536071f;
            lamp.ReachOuter = 20.0f;
            lamp.PositionX = 60.0f;
            lamp.PositionY = 8.0f;
            lamp.PositionZ = 0.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillBoardStrip(uint first, BoardStrip[] lamps)
        {
            double t = Now;
            double then = Clamp(t - 0.08, -1e9, 1e9);
            double intensityProduct = 60.0
                * Blare(then, HornAt, HornSince, HornPlays, HornChanged, BlareHornFollow0From);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double loudness = BoardLoudness.At(AtMost(index, 2u));
                lamps[n].Intensity = ToSingle(intensityProduct * loudness);
                lamps[n].ColorR = 1.0f;
                lamps[n].ColorG = 0.69387174f;
                lamps[n].ColorB = 0.3515326f;
                lamps[n].ReachOuter = 5.0f;
                lamps[n].PositionX = (float)(10.0 + 16.0 * (double)index);
                lamps[n].PositionY = 3.0f;
                lamps[n].PositionZ = -6.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public BoardStrip ReadBoardStrip(uint index)
        {
            double t = Now;
            double then = Clamp(t - 0.08, -1e9, 1e9);
            double intensityProduct = 60.0
                * Blare(then, HornAt, HornSince, HornPlays, HornChanged, BlareHornFollow0From);
            double loudness = BoardLoudness.At(AtMost(index, 2u));
            BoardStrip lamp;
            lamp.Intensity = ToSingle(intensityProduct * loudness);
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.69387174f;
            lamp.ColorB = 0.3515326f;
            lamp.ReachOuter = 5.0f;
            lamp.PositionX = (float)(10.0 + 16.0 * (double)index);
            lamp.PositionY = 3.0f;
            lamp.PositionZ = -6.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public BuoyLamp ReadBuoyLamp()
        {
            double t = Now;
            BuoyLamp lamp;
            lamp.Intensity = (float)(700.0 * (0.1 + 0.9 * Stroke(t)));
            lamp.ColorR = 0.33716363f;
            lamp.ColorG = 1.0f;
            lamp.ColorB = 0.43415365f;
            lamp.ReachOuter = 16.0f;
            lamp.PositionX = 72.0f;
            lamp.PositionY = 2.0f;
            lamp.PositionZ = 18.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public HarborLight ReadHarborLight()
        {
            double t = Now;
            HarborLight lamp;
            lamp.Intensity = ToSingle(2600.0 * HarborLightRhythm(WrapTime(t, 6.0)));
            lamp.ColorR = 0.33716363f;
            lamp.ColorG = 1.0f;
            lamp.ColorB = 0.43415365f;
            lamp.PositionX = 60.0f;
            lamp.PositionY = 14.0f;
            lamp.PositionZ = 0.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillStandby(uint first, Standby[] lamps)
        {
            double t = Now;
            uint intensityKey = ChanceKey(Seed, 0xd182480du);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                lamps[n].Intensity = (float)(12.0
                    * Breathing(FoldTime(t + 6.2 * ChancePhase(LampKey(intensityKey, index)), 3.1)));
                lamps[n].ColorR = 1.0f;
                lamps[n].ColorG = 0.10224173f;
                lamps[n].ColorB = 0.013702083f;
                lamps[n].ReachOuter = 2.0f;
                lamps[n].PositionX = (float)(12.0 + 9.0 * (double)index);
                lamps[n].PositionY = 1.0f;
                lamps[n].PositionZ = 2.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public Standby ReadStandby(uint index)
        {
            double t = Now;
            uint intensityKey = ChanceKey(Seed, 0xd182480du);
            Standby lamp;
            lamp.Intensity = (float)(12.0
                * Breathing(FoldTime(t + 6.2 * ChancePhase(LampKey(intensityKey, index)), 3.1)));
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.10224173f;
            lamp.ColorB = 0.013702083f;
            lamp.ReachOuter = 2.0f;
            lamp.PositionX = (float)(12.0 + 9.0 * (double)index);
            lamp.PositionY = 1.0f;
            lamp.PositionZ = 2.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillEdgeLamp(uint first, EdgeLamp[] lamps)
        {
            double t = Now;
            uint intensityKey = ChanceKey(Seed, 0x00086cfau);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double then = Clamp(t - 0.11 * (double)index, -1e9, 1e9);
                double intensitySum = (-6.0 + 12.0 * ChancePhase(LampKey(intensityKey, index))) / 360.0
                    + 0.25;
                double intensitySum_2 = SineLevel(intensitySum + 0.25) * 2.0 - 1.0 - 1.0;
                double intensitySum_3 = SineLevel(intensitySum) * 2.0 - 1.0;
                double intensitySum_4 = 0.04008983117438758 * intensitySum_2
                    - 0.16559477844099274 * intensitySum_3;
                double intensitySum_5 = 0.04008983117438758 * intensitySum_3
                    + 0.16559477844099274 * intensitySum_2;
                double coneLong = 0.8640444967404417
                    + (intensitySum_4 * 0.3963377774 + intensitySum_5 * 0.2158037573);
                double coneMiddle = 0.7976135602197533
                    + (intensitySum_4 * -0.1055613458 + intensitySum_5 * -0.0638541728);
                double coneShort = 0.5949687844818005
                    + (intensitySum_4 * -0.0894841775 + intensitySum_5 * -1.291485548);
                double colorNowR = LightR(coneLong, coneMiddle, coneShort);
                double colorNowG = LightG(coneLong, coneMiddle, coneShort);
                double colorNowB = LightB(coneLong, coneMiddle, coneShort);
                double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
                lamps[n].Intensity = (float)(18.0
                    * (0.2 + 0.8 * SineLevel(WrapTime(then, 2.9) / 2.9))
                    * brightest);
                lamps[n].ColorR = (float)Share(colorNowR, brightest);
                lamps[n].ColorG = (float)Share(colorNowG, brightest);
                lamps[n].ColorB = ToSingle(Share(colorNowB, brightest));
                lamps[n].ReachOuter = 2.0f;
                lamps[n].PositionX = (float)(3.5 * (double)index);
                lamps[n].PositionY = 0.2f;
                lamps[n].PositionZ = 12.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public EdgeLamp ReadEdgeLamp(uint index)
        {
            double t = Now;
            uint intensityKey = ChanceKey(Seed, 0x00086cfau);
            double then = Clamp(t - 0.11 * (double)index, -1e9, 1e9);
            double intensitySum = (-6.0 + 12.0 * ChancePhase(LampKey(intensityKey, index))) / 360.0 + 0.25;
            double intensitySum_2 = SineLevel(intensitySum + 0.25) * 2.0 - 1.0 - 1.0;
            double intensitySum_3 = SineLevel(intensitySum) * 2.0 - 1.0;
            double intensitySum_4 = 0.04008983117438758 * intensitySum_2
                - 0.16559477844099274 * intensitySum_3;
            double intensitySum_5 = 0.04008983117438758 * intensitySum_3
                + 0.16559477844099274 * intensitySum_2;
            double coneLong = 0.8640444967404417
                + (intensitySum_4 * 0.3963377774 + intensitySum_5 * 0.2158037573);
            double coneMiddle = 0.7976135602197533
                + (intensitySum_4 * -0.1055613458 + intensitySum_5 * -0.0638541728);
            double coneShort = 0.5949687844818005
                + (intensitySum_4 * -0.0894841775 + intensitySum_5 * -1.291485548);
            double colorNowR = LightR(coneLong, coneMiddle, coneShort);
            double colorNowG = LightG(coneLong, coneMiddle, coneShort);
            double colorNowB = LightB(coneLong, coneMiddle, coneShort);
            double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
            EdgeLamp lamp;
            lamp.Intensity = (float)(18.0 * (0.2 + 0.8 * SineLevel(WrapTime(then, 2.9) / 2.9)) * brightest);
            lamp.ColorR = (float)Share(colorNowR, brightest);
            lamp.ColorG = (float)Share(colorNowG, brightest);
            lamp.ColorB = ToSingle(Share(colorNowB, brightest));
            lamp.ReachOuter = 2.0f;
            lamp.PositionX = (float)(3.5 * (double)index);
            lamp.PositionY = 0.2f;
            lamp.PositionZ = 12.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Gangway ReadGangway()
        {
            double t = Now;
            double intensityProduct = 320.0 * Warming(t);
            double dockingAtNow = DockingAt(t, DockingStarted);
            double intensityChoice = 0.0 > dockingAtNow ? 0.0 : DockingWeight(dockingAtNow);
            double coneLong = Lerp(0.9010167023289669, DockingGangwayColorL(dockingAtNow), intensityChoice);
            double coneMiddle = Lerp(0.8563551629324132, DockingGangwayColorM(dockingAtNow), intensityChoice);
            double coneShort = Lerp(0.744272310693046, DockingGangwayColorS(dockingAtNow), intensityChoice);
            double colorNowR = LightR(coneLong, coneMiddle, coneShort);
            double colorNowG = LightG(coneLong, coneMiddle, coneShort);
            double colorNowB = LightB(coneLong, coneMiddle, coneShort);
            double brightest = Max(Max(colorNowR, colorNowG), colorNowB);
            Gangway lamp;
            lamp.Intensity = ToSingle(Lerp(intensityProduct,
                        2.5 > dockingAtNow
                            ? Lerp(intensityProduct, 1500.0,
                                EaseSmooth(Clamp((dockingAtNow - 1.0) / 1.5, 0.0, 1.0)))
                            : 16.0 > dockingAtNow
                            ? 1500.0
                            : 18.0 > dockingAtNow
                            ? Lerp(1500.0, 900.0, EaseSmooth(Clamp((dockingAtNow - 16.0) / 2.0, 0.0, 1.0)))
                            : 900.0, DockingWeight2(dockingAtNow))
                    * brightest);
            lamp.ColorR = (float)Share(colorNowR, brightest);
            lamp.ColorG = (float)Share(colorNowG, brightest);
            lamp.ColorB = ToSingle(Share(colorNowB, brightest));
            lamp.ReachInner = 1.0f;
            lamp.ReachOuter = 8.0f;
            lamp.PositionX = 22.0f;
            lamp.PositionY = 2.0f;
            lamp.PositionZ = 4.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public GateLamp ReadGateLamp()
        {
            double t = Now;
            double gateOpensLast = GateOpensLast;
            GateLamp lamp;
            lamp.Intensity = ToSingle(40.0
                    * (gateOpensLast > -1.5e9 ? Opening(Max(t - gateOpensLast, 0.0)) : 0.0));
            lamp.ColorR = 0.09758735f;
            lamp.ColorG = 1.0f;
            lamp.ColorB = 0.3231432f;
            lamp.ReachOuter = 3.0f;
            lamp.PositionX = 22.0f;
            lamp.PositionY = 1.0f;
            lamp.PositionZ = 8.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public WarningLamp ReadWarningLamp()
        {
            double t = Now;
            double intensityMix = 0.1 + 0.4 * SineLevel(WrapTime(t, 3.1) / 3.1);
            double warningLampRhythmNow = WarningLampRhythm(WrapTime(t, 1.0));
            WarningLamp lamp;
            lamp.Intensity = ToSingle(900.0
                    * Min(Max(intensityMix
                                    * WarningWatch(t, WarningMode, WarningEntered, WarningWay,
                                        WarningFromWatch)
                                + warningLampRhythmNow
                                    * WarningAlarm(t, WarningMode, WarningEntered, WarningWay,
                                        WarningFromAlarm), Min(Min(0.0, intensityMix), warningLampRhythmNow)),
                        Max(Max(0.0, intensityMix), warningLampRhythmNow)));
            lamp.ColorR = 1.0f;
            lamp.ColorG = 0.023153367f;
            lamp.ColorB = 0.0051815165f;
            lamp.ReachOuter = 12.0f;
            lamp.PositionX = 60.0f;
            lamp.PositionY = 10.0f;
            lamp.PositionZ = 0.0f;
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillStarShell(uint first, StarShell[] lamps)
        {
            double t = Now;
            uint intensityKey = ChanceKey(Seed, 0xdbd45adau);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                uint atMost = AtMost(index, 5u);
                double starShellBorn = StarShellBorn.At(atMost);
                double starShellLength = StarShellLength.At(atMost);
                bool lives = starShellBorn + starShellLength > t && !(starShellBorn > t);
                double life = Clamp((t - starShellBorn) / starShellLength, 0.0, 1.0);
                double starShellTintR = StarShellTint.At(3u * atMost + 0u);
                double starShellTintG = StarShellTint.At(3u * atMost + 1u);
                double starShellTintB = StarShellTint.At(3u * atMost + 2u);
                double brightest = Max(Max(starShellTintR, starShellTintG), starShellTintB);
                lamps[n].Intensity = ToSingle((lives
                            ? 9e3
                                * Fading(life)
                                * (0.85
                                    + 0.15000000000000002
                                        * HeldLevel(t, LampKey(intensityKey, index), 12.5,
                                            0.24999999999999994))
                            : 0.0)
                        * brightest);
                lamps[n].ColorR = ToSingle(Share(starShellTintR, brightest));
                lamps[n].ColorG = ToSingle(Share(starShellTintG, brightest));
                lamps[n].ColorB = ToSingle(Share(starShellTintB, brightest));
                lamps[n].ReachOuter = 90.0f;
                lamps[n].PositionX = ToSingle(StarShellPlace.At(3u * atMost + 0u));
                lamps[n].PositionY = ToSingle(StarShellPlace.At(3u * atMost + 1u));
                lamps[n].PositionZ = ToSingle(StarShellPlace.At(3u * atMost + 2u));
                lamps[n].OffsetX = 0.0f;
                lamps[n].OffsetY = ToSingle(life * -12.0);
                lamps[n].OffsetZ = 0.0f;
            }
        }

        /// <summary>Reads one lamp.</summary>
        public StarShell ReadStarShell(uint index)
        {
            double t = Now;
            uint intensityKey = ChanceKey(Seed, 0xdbd45adau);
            uint atMost = AtMost(index, 5u);
            double starShellBorn = StarShellBorn.At(atMost);
            double starShellLength = StarShellLength.At(atMost);
            bool lives = starShellBorn + starShellLength > t && !(starShellBorn > t);
            double life = Clamp((t - starShellBorn) / starShellLength, 0.0, 1.0);
            double starShellTintR = StarShellTint.At(3u * atMost + 0u);
            double starShellTintG = StarShellTint.At(3u * atMost + 1u);
            double starShellTintB = StarShellTint.At(3u * atMost + 2u);
            double brightest = Max(Max(starShellTintR, starShellTintG), starShellTintB);
            StarShell lamp;
            lamp.Intensity = ToSingle((lives
                        ? 9e3
                            * Fading(life)
                            * (0.85
                                + 0.15000000000000002
                                    * HeldLevel(t, LampKey(intensityKey, index), 12.5, 0.24999999999999994))
                        : 0.0)
                    * brightest);
            lamp.ColorR = ToSingle(Share(starShellTintR, brightest));
            lamp.ColorG = ToSingle(Share(starShellTintG, brightest));
            lamp.ColorB = ToSingle(Share(starShellTintB, brightest));
            lamp.ReachOuter = 90.0f;
            lamp.PositionX = ToSingle(StarShellPlace.At(3u * atMost + 0u));
            lamp.PositionY = ToSingle(StarShellPlace.At(3u * atMost + 1u));
            lamp.PositionZ = ToSingle(StarShellPlace.At(3u * atMost + 2u));
            lamp.OffsetX = 0.0f;
            lamp.OffsetY = ToSingle(life * -12.0);
            lamp.OffsetZ = 0.0f;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Sunlight ReadSunlight()
        {
            double hour = ClockHour();
            double sunColorNowR = SunColorR(hour, Season);
            double sunColorNowG = SunColorG(hour, Season);
            double sunColorNowB = SunColorB(hour, Season);
            double brightest = Max(Max(sunColorNowR, sunColorNowG), sunColorNowB);
            double sunAimNowX = SunAimX(hour, Season);
            double sunAimNowY = SunAimY(hour, Season);
            double sunAimNowZ = SunAimZ(hour, Season);
            Sunlight lamp;
            lamp.Intensity = ToSingle(6e4
                    * SunStrength(hour, Season)
                    * Lerp(1.0 - 0.8 * Mist, 0.0, WeatherWeight(1u))
                    * brightest);
            lamp.ColorR = (float)Share(sunColorNowR, brightest);
            lamp.ColorG = (float)Share(sunColorNowG, brightest);
            lamp.ColorB = (float)Share(sunColorNowB, brightest);
            lamp.AimX = ToSingle(Heading(sunAimNowX, sunAimNowX, sunAimNowY, sunAimNowZ, 0.0));
            lamp.AimY = ToSingle(Heading(sunAimNowY, sunAimNowX, sunAimNowY, sunAimNowZ, 0.0));
            lamp.AimZ = ToSingle(Heading(sunAimNowZ, sunAimNowX, sunAimNowY, sunAimNowZ, -1.0));
            lamp.Shadows = true;
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Moonlight ReadMoonlight()
        {
            double hour = ClockHour();
            double days = ClockDays();
            double moonAimNowX = MoonAimX(hour, days, Season);
            double moonAimNowY = MoonAimY(hour, days, Season);
            double moonAimNowZ = MoonAimZ(hour, days, Season);
            Moonlight lamp;
            lamp.Intensity = ToSingle(0.25
                    * MoonStrength(hour, days, Season)
                    * Lerp(1.0 - Mist, 0.0, WeatherWeight(1u)));
            lamp.ColorR = 0.47932017f;
            lamp.ColorG = 0.60382736f;
            lamp.ColorB = 1.0f;
            lamp.AimX = ToSingle(Heading(moonAimNowX, moonAimNowX, moonAimNowY, moonAimNowZ, 0.0));
            lamp.AimY = ToSingle(Heading(moonAimNowY, moonAimNowX, moonAimNowY, moonAimNowZ, 0.0));
            lamp.AimZ = ToSingle(Heading(moonAimNowZ, moonAimNowX, moonAimNowY, moonAimNowZ, -1.0));
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Deck ReadDeck()
        {
            double hour = ClockHour();
            double t = Now;
            double weatherWeight = WeatherWeight(1u);
            double skyNowR = SkyR(hour, Season, weatherWeight);
            double skyNowG = SkyG(hour, Season, weatherWeight);
            double skyNowB = SkyB(hour, Season, weatherWeight);
            double sunDaylightNow = SunDaylight(hour, Season);
            double coneLong = Lerp(0.5188370226641149, ConeL(skyNowR, skyNowG, skyNowB), sunDaylightNow);
            double coneMiddle = Lerp(0.5377145272642493, ConeM(skyNowR, skyNowG, skyNowB), sunDaylightNow);
            double coneShort = Lerp(0.5886725379626864, ConeS(skyNowR, skyNowG, skyNowB), sunDaylightNow);
            Deck lamp;
            lamp.Intensity = (float)(3.0 * (0.4 + 0.05 * Supply(t))
                + 2500.0 * Overhead(hour, Season, weatherWeight));
            lamp.ColorR = (float)LightR(coneLong, coneMiddle, coneShort);
            lamp.ColorG = (float)LightG(coneLong, coneMiddle, coneShort);
            lamp.ColorB = (float)LightB(coneLong, coneMiddle, coneShort);
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public SkyTint ReadSkyTint()
        {
            double hour = ClockHour();
            double weatherWeight = WeatherWeight(1u);
            SkyTint lamp;
            lamp.ValueR = (float)SkyR(hour, Season, weatherWeight);
            lamp.ValueG = (float)SkyG(hour, Season, weatherWeight);
            lamp.ValueB = (float)SkyB(hour, Season, weatherWeight);
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public HazeTint ReadHazeTint()
        {
            double hour = ClockHour();
            double watchTintNowR = WatchTintR(hour);
            double watchTintNowG = WatchTintG(hour);
            double watchTintNowB = WatchTintB(hour);
            double valueProduct = 0.3 * Dark(hour, Season);
            double coneLong = Lerp(ConeL(watchTintNowR, watchTintNowG, watchTintNowB), 0.8713426777842572,
                valueProduct);
            double coneMiddle = Lerp(ConeM(watchTintNowR, watchTintNowG, watchTintNowB), 0.8115731599841808,
                valueProduct);
            double coneShort = Lerp(ConeS(watchTintNowR, watchTintNowG, watchTintNowB), 0.6752738619690486,
                valueProduct);
            HazeTint lamp;
            lamp.ValueR = (float)LightR(coneLong, coneMiddle, coneShort);
            lamp.ValueG = (float)LightG(coneLong, coneMiddle, coneShort);
            lamp.ValueB = (float)LightB(coneLong, coneMiddle, coneShort);
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Fog ReadFog()
        {
            double hour = ClockHour();
            Fog lamp;
            lamp.Value = ToSingle(Mist
                    * Clamp(1.3 * WatchNight(hour)
                            + 1.6 * WatchMorning(hour)
                            + WatchForenoon(hour)
                            + WatchEvening(hour), 1.0, 1.6));
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public ViewRange ReadViewRange()
        {
            double hour = ClockHour();
            ViewRange lamp;
            lamp.Value = (float)Lerp(900.0 + 3100.0 * Overhead(hour, Season, WeatherWeight(1u)), 150.0, Mist);
            return lamp;
        }

        /// <summary>Reads the lamp.</summary>
        public Drumming ReadDrumming()
        {
            double t = Now;
            Drumming lamp;
            lamp.Value = ToSingle(EnvelopeLevel(WrapTime(t, 4.0) * 3840.0, RainEnvelope, 215)
                    * Lerp(0.0, 1.0, WeatherWeight(1u)));
            return lamp;
        }

        /// <summary>Reads lamps from first on, as many as the array has room for.</summary>
        public void FillStars(uint first, Stars[] lamps)
        {
            double hour = ClockHour();
            double t = Now;
            double clear = (1.0 - Mist)
                * (1.0 - SunDaylight(hour, Season))
                * Lerp(1.0, 0.0, WeatherWeight(1u));
            uint levelKey = ChanceKey(Seed, 0xff9688cdu);
            uint tintKey = ChanceKey(Seed, 0x09b597c5u);
            for (int n = 0; n < lamps.Length; ++n)
            {
                uint index = unchecked(first + (uint)n);
                double tintTime = ChancePhase(LampKey(tintKey, index));
                bool tintIf = 0.3333333333333333 > tintTime;
                bool tintIf_2 = 0.6666666666666666 > tintTime;
                lamps[n].Level = ToSingle(clear
                        * (0.4
                            + 0.6
                                * SoftLevel(t, LampKey(levelKey, index), 1.8181818181818181,
                                    0.3181818181818181, 0.6)));
                lamps[n].TintR = (float)(tintIf ? 1.0 : tintIf_2 ? 1.0 : 0.47932017);
                lamps[n].TintG = (float)(tintIf ? 0.69387174 : tintIf_2 ? 1.0 : 0.60382736);
                lamps[n].TintB = (float)(tintIf ? 0.43415365 : 1.0);
            }
        }

        /// <summary>Reads one lamp.</summary>
        public Stars ReadStars(uint index)
        {
            double hour = ClockHour();
            double t = Now;
            double clear = (1.0 - Mist)
                * (1.0 - SunDaylight(hour, Season))
                * Lerp(1.0, 0.0, WeatherWeight(1u));
            uint levelKey = ChanceKey(Seed, 0xff9688cdu);
            uint tintKey = ChanceKey(Seed, 0x09b597c5u);
            double tintTime = ChancePhase(LampKey(tintKey, index));
            bool tintIf = 0.3333333333333333 > tintTime;
            bool tintIf_2 = 0.6666666666666666 > tintTime;
            Stars lamp;
            lamp.Level = ToSingle(clear
                    * (0.4
                        + 0.6
                            * SoftLevel(t, LampKey(levelKey, index), 1.8181818181818181, 0.3181818181818181,
                                0.6)));
            lamp.TintR = (float)(tintIf ? 1.0 : tintIf_2 ? 1.0 : 0.47932017);
            lamp.TintG = (float)(tintIf ? 0.69387174 : tintIf_2 ? 1.0 : 0.60382736);
            lamp.TintB = (float)(tintIf ? 0.43415365 : 1.0);
            return lamp;
        }

        /// <summary>Keeps where a lamp of fog_lamp is.</summary>
        void NoticePlaceFogLamp(uint at, uint lamp)
        {
            NoticePositions.Put(3u * at + 0u, (double)(float)(4.0 + 18.0 * (double)lamp));
            NoticePositions.Put(3u * at + 1u, 4.0);
            NoticePositions.Put(3u * at + 2u, -3.0);
        }

        /// <summary>Lets a notice wait until the host takes it, if there is room.</summary>
        void Send(uint line, double text, uint lamp, double valueLoud, double valueWithin)
        {
            unchecked
            {
                uint count = Counted(NoticeCount, 32u);
                if (count == 32u)
                {
                    NoticeDropped += 1.0;
                    return;
                }
                uint at = (Counted(NoticeFirst, 31u) + count) % 32u;
                NoticeCount = (double)(count + 1u);
                NoticeMoments.Put(at, Now);
                NoticePacked.Put(at, ((double)line * 64.0 + text) * 1048576.0 + (double)lamp);
                NoticeValueLoud.Put(at, valueLoud);
                NoticeValueWithin.Put(at, valueWithin);
                if (line == 1u)
                {
                    NoticePlaceFogLamp(at, lamp);
                }
                else
                {
                    NoticePositions.Put(3u * at + 0u, 0.0);
                    NoticePositions.Put(3u * at + 1u, 0.0);
                    NoticePositions.Put(3u * at + 2u, 0.0);
                }
            }
        }

        /// <summary>What the book tells the game when something happens.</summary>
        public struct Notice
        {
            public double Moment; // s since the run's start
            public string Name; // the book's name for it
            public string Text; // what comes with it, one of several by chance; empty for nothing
            public string From; // the light or instance that it comes from; empty for none
            public uint Lamp; // which lamp of the light, or which instance
            /// <summary>where that lamp was then; 0 where the book does not say</summary>
            public float PositionX, PositionY, PositionZ;
            public float Loud; // number; 0 in notices without it
            public float Within; // m; 0 in notices without it
        }

        /// <summary>Takes the oldest notice that waits; false if there is none. 32 may wait.</summary>
        public bool TakeNotice(out Notice notice)
        {
            notice = default(Notice);
            uint count = Counted(NoticeCount, 32u);
            if (count == 0u) return false;
            uint at = Counted(NoticeFirst, 31u);
            double packed = NoticePacked.At(at) >= 0.0 && NoticePacked.At(at) < 134217728.0
                ? NoticePacked.At(at)
                : 0.0;
            double which = RoundDown(packed / 1048576.0);
            uint line = CellIndex(RoundDown(which / 64.0));
            uint start = NoticeTextStarts[line];
            uint text = start
                + CellIndex(which - (double)line * 64.0) % (NoticeTextStarts[line + 1u] - start);
            NoticeCount = (double)(count - 1u);
            NoticeFirst = (double)((at + 1u) % 32u);
            notice.Moment = NoticeMoments.At(at);
            notice.Name = NoticeNames[line];
            notice.Text = NoticeTexts[text];
            notice.From = NoticeSources[line];
            notice.Lamp = CellIndex(packed - which * 1048576.0);
            notice.PositionX = (float)NoticePositions.At(3u * at + 0u);
            notice.PositionY = (float)NoticePositions.At(3u * at + 1u);
            notice.PositionZ = (float)NoticePositions.At(3u * at + 2u);
            notice.Loud = ToSingle(NoticeValueLoud.At(at));
            notice.Within = ToSingle(NoticeValueWithin.At(at));
            return true;
        }

        /// <summary>How many notices there was no room for since the start.</summary>
        public uint DroppedNotices()
        {
            return Counted(NoticeDropped, 0xffffffffu);
        }

        /// <summary>Envelope of a sound: 49 entries, each a position in 1/3840 s (upper 24 bits)
        /// and a level in 1/255 of full scale (lower 8 bits). 196 bytes.</summary>
        static readonly uint[] HornEnvelope =
        {
            0x0u, 0xee09u, 0x24243u, 0x32180u, 0x390a7u, 0x473d1u, 0x63debu, 0x6acf9u, 0x907efu, 0x96df8u,
            0xc0eeeu, 0xc79f5u, 0xe7ceeu, 0xf42fau, 0x1176efu, 0x121bf7u, 0x1467f0u, 0x14e8f9u, 0x1714efu,
            0x17cffbu, 0x19caefu, 0x1a26f5u, 0x1cf3eeu, 0x1d74f5u, 0x1f96eeu, 0x1ff9f6u, 0x2262f0u,
            0x22caf9u, 0x2532e5u, 0x2759b8u, 0x2aaa59u, 0x2dd129u, 0x32550eu, 0x330619u, 0x355086u,
            0x35ba92u, 0x3663b8u, 0x371ec2u, 0x38f9bdu, 0x39b3c6u, 0x3c34beu, 0x3cd4c5u, 0x3f02bdu,
            0x3f9fc3u, 0x42bda8u, 0x47983fu, 0x4b7518u, 0x528303u, 0x5c0e00u
        };

        /// <summary>Envelope of a sound: 55 entries, each a position in 1/3840 s (upper 24 bits)
        /// and a level in 1/255 of full scale (lower 8 bits). 220 bytes.</summary>
        static readonly uint[] BuoyEnvelope =
        {
            0x17u, 0x4800fu, 0x4873fu, 0x4936eu, 0x4a18cu, 0x4a8adu, 0x4b8d2u, 0x4c8dau, 0x4d2d9u, 0x4e2e9u,
            0x512e8u, 0x522f8u, 0x5f1edu, 0x89ed3u, 0xcb89cu, 0x13f758u, 0x1c802du, 0x1c8a49u, 0x1ca468u,
            0x1caf7cu, 0x1cc48cu, 0x1cd68cu, 0x1ce994u, 0x23666eu, 0x270053u, 0x270971u, 0x27137du,
            0x27217eu, 0x27299bu, 0x273eb7u, 0x2753b8u, 0x2760c8u, 0x2794c6u, 0x27a4d0u, 0x33a05bu,
            0x3cab29u, 0x49800cu, 0x498730u, 0x49995au, 0x49a164u, 0x49ac84u, 0x49c19cu, 0x49d49cu,
            0x49e4a7u, 0x4a14a6u, 0x4a26afu, 0x56b049u, 0x5d042eu, 0x5d1838u, 0x5d2239u, 0x5d314cu,
            0x5d7657u, 0x5e8959u, 0x692428u, 0x708017u
        };

        static readonly double[] BlastPlaces =
        {
            0.22712339743589743, 3.589878015350877
        };

        static readonly double[] BurstsOn =
        {
            0.0, 0.7155, 1.0152, 1.238, 1.2404, 2.0157, 2.8663, 3.7311, 4.5633, 4.7371, 5.1279, 6.0236,
            6.3127, 7.1598, 8.0075, 8.8125, 9.5932, 9.6597, 9.696, 10.6821, 11.3451, 11.8288, 12.7837,
            13.1694, 13.9033, 14.8109, 15.5938, 16.2674, 16.6973, 16.8333, 17.43, 17.7617, 17.8614, 18.6344,
            19.5996, 20.1417, 20.1748, 20.377, 21.1412, 21.3314, 21.5376, 22.1011, 23.0341, 24.0179, 24.453,
            24.8634, 25.2002, 25.3501, 26.1601, 26.9151, 27.7543, 28.1657, 28.541, 29.1283, 29.8095, 30.2508,
            30.7433, 31.0401, 31.3425, 32.2912, 32.4584, 32.758, 33.7317, 34.6752, 35.2245
        };

        static readonly double[] BurstsOff =
        {
            0.0, 0.7738, 1.3437, 1.6987, 1.9061, 2.4112, 3.1283, 3.642, 4.4697, 4.9292, 5.8406, 6.5692,
            6.7153, 7.5377, 7.6336, 8.3037, 8.7525, 9.1311, 9.8135, 10.3444, 11.276, 11.4266, 11.4836,
            12.4501, 12.4798, 13.3973, 13.533, 13.6373, 14.0338, 14.4989, 14.5389, 14.8797, 15.8484, 16.5283,
            16.5303, 16.6322, 17.1037, 17.863, 17.8875, 18.2454, 19.1154, 19.3658, 19.6642, 20.3023, 20.4718,
            20.8784, 21.3826, 22.0989, 22.786, 22.9712, 23.2326, 23.9456, 24.4821, 25.4601, 25.5671, 26.4133,
            26.7146, 27.2721, 27.472, 28.1412, 28.2784, 28.4203, 28.6996, 28.763, 28.8298
        };

        /// <summary>Envelope of a sound: 174 entries, each a position in 1/3840 s (upper 24 bits)
        /// and a level in 1/255 of full scale (lower 8 bits). 696 bytes.</summary>
        static readonly uint[] RatchetEnvelope =
        {
            0x6eu, 0x9a1u, 0x16cau, 0x2be6u, 0x87ddu, 0x1e07eu, 0x1fd8eu, 0x21191u, 0x21eb1u, 0x23bc8u,
            0x2c2b2u, 0x3de6bu, 0x4066du, 0x42173u, 0x42c93u, 0x445adu, 0x476aeu, 0x61b57u, 0x63056u,
            0x63a88u, 0x64aaeu, 0x665c6u, 0x69eccu, 0x86861u, 0x87164u, 0x87a85u, 0x88da3u, 0x8aaafu,
            0x932a2u, 0xa805au, 0xae14fu, 0xae869u, 0xafa89u, 0xb1095u, 0xb1ac0u, 0xb29e3u, 0xb43f7u,
            0xbf1ccu, 0xcce88u, 0xd8165u, 0xd917fu, 0xdb08bu, 0xdb9b7u, 0xdc8dfu, 0xde1f6u, 0xe86cdu,
            0xf6888u, 0x104f5cu, 0x10536eu, 0x105b95u, 0x106bbbu, 0x1083cfu, 0x111fb4u, 0x12316eu, 0x12ed52u,
            0x12f054u, 0x12f88bu, 0x1304bbu, 0x1317deu, 0x132ae5u, 0x13b9c9u, 0x14ba7fu, 0x156061u,
            0x156a8au, 0x1579abu, 0x1592beu, 0x1616aeu, 0x176361u, 0x17a15bu, 0x17ae7bu, 0x17ca92u,
            0x17d194u, 0x17e1afu, 0x1803bfu, 0x191e84u, 0x19c75fu, 0x19e05eu, 0x19ea85u, 0x19fca7u,
            0x1a17b4u, 0x1ab19fu, 0x1ba566u, 0x1bf05eu, 0x1bf893u, 0x1c04c3u, 0x1c17e5u, 0x1c28ebu,
            0x1ca1d6u, 0x1dc281u, 0x1e007cu, 0x1e0aaeu, 0x1e1ad6u, 0x1e32eau, 0x1ed1cau, 0x1fc981u,
            0x20107eu, 0x201ba6u, 0x202dc5u, 0x2047d1u, 0x21f16du, 0x220183u, 0x22218fu, 0x2229b1u,
            0x223ad3u, 0x2254e3u, 0x22ebc4u, 0x23ed7bu, 0x243172u, 0x243b90u, 0x2453acu, 0x247fb0u,
            0x255889u, 0x26255cu, 0x267154u, 0x267870u, 0x268b93u, 0x26a4a3u, 0x26b7b7u, 0x26e2bcu,
            0x28b857u, 0x28e455u, 0x28f664u, 0x291067u, 0x291a91u, 0x292bb4u, 0x2945c3u, 0x2b3d57u,
            0x2b8250u, 0x2b9364u, 0x2bb16du, 0x2bbc8bu, 0x2bd4a4u, 0x2bf5a7u, 0x2de24au, 0x2e5043u,
            0x2e587fu, 0x2e63b2u, 0x2e74d8u, 0x2e85e4u, 0x2f1ac8u, 0x303679u, 0x30f05au, 0x30fb85u,
            0x310fa7u, 0x312ab1u, 0x31d994u, 0x32c95eu, 0x33604bu, 0x336783u, 0x3371b6u, 0x337fddu,
            0x3393f2u, 0x3406dfu, 0x354a80u, 0x35a171u, 0x35ad90u, 0x35c9a8u, 0x35d2abu, 0x35e3c2u,
            0x3608cdu, 0x37c566u, 0x37e167u, 0x37ed87u, 0x3807a0u, 0x386b9du, 0x39d256u, 0x39f055u,
            0x39f887u, 0x3a04b2u, 0x3a16d1u, 0x3a29d9u, 0x3abfbfu, 0x3be771u, 0x3c006eu
        };

        /// <summary>Envelope of a sound: 216 entries, each a position in 1/3840 s (upper 24 bits)
        /// and a level in 1/255 of full scale (lower 8 bits). 864 bytes.</summary>
        static readonly uint[] RainEnvelope =
        {
            0x6fu, 0xf73bu, 0x1a033u, 0x1b036u, 0x1b86bu, 0x1c398u, 0x1d4bau, 0x1eec9u, 0x220c8u, 0x2bb99u,
            0x30d86u, 0x3995au, 0x49e38u, 0x5222fu, 0x5f919u, 0x66118u, 0x66d36u, 0x6884du, 0x69250u,
            0x69d66u, 0x6c37bu, 0x6d490u, 0x6fa98u, 0x75b8du, 0x78895u, 0x7b395u, 0x7c5a8u, 0x7e2afu,
            0x7f1c5u, 0x814d0u, 0x880abu, 0x8f679u, 0x9be49u, 0x9f34au, 0xa0b5bu, 0xa225fu, 0xa3276u,
            0xa5a81u, 0xba73bu, 0xbd039u, 0xbd968u, 0xbe790u, 0xc00abu, 0xc15ccu, 0xc35d6u, 0xc9eb5u,
            0xd02b2u, 0xd569au, 0xd96a2u, 0xe4088u, 0xe4bb0u, 0xe60d0u, 0xe79d7u, 0xebacau, 0xf8e73u,
            0x106840u, 0x10e134u, 0x10ed51u, 0x110a68u, 0x114374u, 0x123c53u, 0x12a740u, 0x12f13cu,
            0x130356u, 0x13205fu, 0x132b88u, 0x133fa8u, 0x1356b1u, 0x13c9a2u, 0x13f4a2u, 0x14717fu,
            0x147d9du, 0x1499b4u, 0x14a2b7u, 0x14aecfu, 0x14d0e1u, 0x1560aeu, 0x1570c8u, 0x1596d7u,
            0x15d8ceu, 0x16858eu, 0x16b586u, 0x16d492u, 0x16e593u, 0x16f6a0u, 0x1715a5u, 0x172bb3u,
            0x1768b1u, 0x189157u, 0x18c152u, 0x18d16du, 0x18f17du, 0x18fd9au, 0x1917b2u, 0x1973a1u,
            0x19b18eu, 0x19c2a6u, 0x1a09b9u, 0x1a8598u, 0x1ab19cu, 0x1ad2a4u, 0x1addbau, 0x1b02ceu,
            0x1b10e6u, 0x1b32f5u, 0x1b6ee7u, 0x1bb8e7u, 0x1c30c9u, 0x1c64c7u, 0x1d7165u, 0x1e3040u,
            0x1e3e59u, 0x1e6569u, 0x1ec961u, 0x1ef269u, 0x1f0180u, 0x1f268cu, 0x1ff85bu, 0x20a043u,
            0x20ab69u, 0x20bf87u, 0x20d191u, 0x20dbb2u, 0x20f2d0u, 0x210cd4u, 0x21b1b3u, 0x21c3b7u,
            0x21d7cbu, 0x21fdceu, 0x231c68u, 0x243c32u, 0x25c515u, 0x26411au, 0x26a416u, 0x26bd25u,
            0x26d025u, 0x26d75au, 0x26e28du, 0x26f3b4u, 0x2702c3u, 0x2710deu, 0x2731f0u, 0x27cbb3u,
            0x281ea8u, 0x28bc71u, 0x28e971u, 0x290d7bu, 0x298866u, 0x29a067u, 0x29a89du, 0x29b5ceu,
            0x29c8eeu, 0x29ecf8u, 0x2a17f1u, 0x2af28cu, 0x2b985cu, 0x2c9b46u, 0x2d0248u, 0x2d3342u,
            0x2d4252u, 0x2d6058u, 0x2d6b82u, 0x2d7ca2u, 0x2d96b0u, 0x2deba1u, 0x2e3989u, 0x2edb71u,
            0x2ee176u, 0x2eea99u, 0x2efdbbu, 0x2f17c6u, 0x2ff38eu, 0x30566eu, 0x306170u, 0x306c8fu,
            0x3085aau, 0x30c1b9u, 0x31b768u, 0x320d60u, 0x321165u, 0x321d89u, 0x3236a5u, 0x3274a6u,
            0x328db5u, 0x32e4acu, 0x334390u, 0x33ad89u, 0x34884eu, 0x356531u, 0x357235u, 0x35824cu,
            0x35aa58u, 0x364547u, 0x374a24u, 0x37e122u, 0x37f932u, 0x38dd26u, 0x39631bu, 0x397929u,
            0x39942du, 0x39a93du, 0x39c142u, 0x39cf62u, 0x39ef78u, 0x39f77cu, 0x3a0e8cu, 0x3a3f89u,
            0x3a5285u, 0x3a6598u, 0x3a809du, 0x3a8bc4u, 0x3a9ee4u, 0x3ab6edu, 0x3b10ceu, 0x3b8c92u, 0x3c006fu
        };

        /// <summary>`ease-out` as 16 polynomials of the fifth degree, each over a part of 0..1, the
        /// highest power first; within 1e-7 of the exact curve.</summary>
        static readonly double[] EaseOutPieces =
        {
            -5.490921011389926e-7, -9.215858420839242e-6, -0.00021791080348798882, 0.013469837540678976,
            -5.875513068697574e-10, 0.0, -7.812906442007688e-7, -1.1921502634788701e-5,
            -0.00026039201886651336, 0.012755323743685737, 0.026246331660761478, 0.013242161199117702,
            -1.1470303498266568e-6, -1.57597353894718e-5, -0.00031609106965668727, 0.011894813794337775,
            0.050924208215561775, 0.051970721791419414, -1.7479913325901494e-6, -2.1372028544560593e-5,
            -0.0003909298317580072, 0.010840526335291848, 0.07369678452807546, 0.11445674596592298,
            -2.787034831801281e-6, -2.9877057746434823e-5, -0.0004944691268364615, 0.009522052430272493,
            0.09411081273810756, 0.19858000697765513, -4.6994271145375755e-6, -4.332872350007502e-5,
            -0.0006429030413468478, 0.00783156935190177, 0.11153805406361833, 0.3016857389266205,
            -8.50732662053775e-6, -6.57344029710489e-5, -0.0008653246288636998, 0.005596022403982633,
            0.1250756460573343, 0.42036443115017913, -1.6904405265351618e-5, -0.00010549397155902313,
            -0.0012180302593254196, 0.0025208969951021135, 0.1333661858154677, 0.5500965332530408,
            3.3712425590457837e-6, -4.095286987198712e-7, 0.0007679774348479351, -0.018716700160231314,
            0.13424733768574154, 0.6846431874274608, 1.2579134931588407e-6, 1.6057195864345778e-5,
            0.0007988598580169008, -0.01638155905865332, 0.09913307328340157, 0.8009447641016793,
            -6.317713143695668e-7, 2.2480896384418486e-5, 0.00087462955533409, -0.013876041617058493,
            0.06883704056353922, 0.8845124532938019, -3.061510011573499e-6, 1.957322781365585e-5,
            0.000956921867894759, -0.011123555996506935, 0.04379559494504209, 0.9403699309206868,
            -5.874328212508291e-6, 4.2603194355086145e-6, 0.001003101621752473, -0.008165967038836043,
            0.024482215996438905, 0.9740154034549188, -7.87288797710202e-6, -2.5796357916395782e-5,
            0.0009603605945975635, -0.005189924073107821, 0.011147244076648124, 0.9913331400254971,
            -7.1871739862643715e-6, -6.655045893937429e-5, 0.000778840811191835, -0.002542512031815276,
            0.0035059326605616247, 0.9982171513777415, -2.963768508834497e-6, -0.0001037352517158991,
            0.00044301369064583937, -0.0006773100438795756, 0.00045532018870445066, 0.999885675184754
        };

        /// <summary>`ease-in-out` as 8 polynomials of the fifth degree, each over a part of 0..1,
        /// the highest power first; within 1e-7 of the exact curve.</summary>
        static readonly double[] EaseInOutPieces =
        {
            -5.9600306280916765e-5, -1.4288728891786733e-5, 0.0016594495774066404, 0.029528664822178394,
            -1.7527892799120912e-7, 0.0, -0.00011648313076795529, -0.00031830302097432653,
            0.000978134289642213, 0.03382451569941413, 0.06368001712452143, 0.03111405008548434,
            -5.5044145543013375e-5, -0.0009962619012020236, -0.0014212342730732153, 0.033673105764911386,
            0.13240830588437225, 0.12916193104731982, 0.00023844012784479446, -0.0013059528540354578,
            -0.00581312951409624, 0.022877618144652282, 0.1912322217188494, 0.2927708023767852,
            0.00023844012789033995, 0.00011375221469641275, -0.008652539651685822, 1.3086243361283426e-5,
            0.2155164586889527, 0.5, -5.50441455401784e-5, 0.0012714826289151513, -0.005956723333316166,
            -0.022881390083044177, 0.1912305462624506, 0.7072291976232149, -0.00011648313075617576,
            0.0009007186747838045, -0.0014599091019041797, -0.0336842691348305, 0.13240782365454262,
            0.8708380689526801, -5.9600306281003555e-5, 0.0003122902602908354, 0.0010062915990415868,
            -0.033825278118245525, 0.0636803466506784, 0.9688859499145157
        };

        /// <summary>`cubic-bezier(0.3, -0.4, 0.7, 1.4)` as 16 polynomials of the fifth degree, each
        /// over a part of 0..1, the highest power first; within 1e-7 of the exact curve.</summary>
        static readonly double[] Bezier3Pieces =
        {
            -2.0839635253014506e-5, 0.00026346860584732564, -0.003121982037920477, 0.03375696594323201,
            -0.08333328950444055, 0.0, -1.1772708287704646e-5, 0.0001618036240917055, -0.0022714810883500977,
            0.025763733932832197, -0.02423556673985584, -0.05245567662853471, -7.155736051222788e-6,
            0.00010409337263745854, -0.001739447914372911, 0.01980252125438844, 0.021065839563878686,
            -0.05304895960810445, -4.643557890110237e-6, 6.888918567261767e-5, -0.0013932511312615102,
            0.015137248052746606, 0.055833149800659405, -0.013823109067623995, -3.215798507469831e-6,
            4.598106423557e-5, -0.0011633471260896985, 0.011324430650757281, 0.0821802409063806,
            0.05581828328230301, -2.392753250931857e-6, 3.0082865585908042e-5, -0.0010111303210029396,
            0.00807813894942822, 0.10150691152483486, 0.1482023729790793, -1.9377183689742935e-6,
            1.8235534549804022e-5, -0.0009144775806582286, 0.005201331345965356, 0.11473816915506503,
            0.2568039832446744, -1.7343456705234125e-6, 8.633105562111952e-6, -0.0008608014939272777,
            0.002547944762471317, 0.12246065399033697, 0.3758453039812274, -1.7343456079591213e-6,
            3.8622636578615265e-8, -0.0008436125282516556, 4.542597081559066e-9, 0.12499999972739867, 0.5,
            -1.9377183888921395e-6, -8.546942661832059e-6, -0.0008609126261862148, -0.002547934627580869,
            0.1224606526513704, 0.6241546960187727, -2.3927533505927746e-6, -1.811909908379443e-5,
            -0.0009147263913770377, -0.005201317647359299, 0.11473816615676595, 0.7431960167553253,
            -3.2157984776506527e-6, -2.990207177293145e-5, -0.001011580854159216, -0.008078117672846238,
            0.10150690609403262, 0.8517976270209205, -4.6435578610579695e-6, -4.5671396298825845e-5,
            -0.0011641299674016265, -0.011324394194122489, 0.08218023146561061, 0.9441817167176971,
            -7.155736068435378e-6, -6.831469235602926e-5, -0.001394631784335534, -0.01513718038659372,
            0.055833133139834276, 1.0138231090676237, -1.1772708273850223e-5, -0.00010294008270513892,
            -0.0017419936747978758, -0.019802385329485316, 0.021065808815692116, 1.0530489596081043,
            -2.083963520366024e-5, -0.0001592704297073706, -0.002276503966944367, -0.025763435112073237,
            -0.024235627484605594, 1.0524556766285342
        };

        /// <summary>Names of notices, by the lines that send them.</summary>
        static readonly string[] NoticeNames =
        {
            "echo", "strike"
        };

        /// <summary>What they come from.</summary>
        static readonly string[] NoticeSources =
        {
            "", "fog_lamp"
        };

        /// <summary>What they come with.</summary>
        static readonly string[] NoticeTexts =
        {
            "echo_near", "echo_far", "strike_a", "strike_b", "strike_c"
        };

        /// <summary>Where the texts of each line begin.</summary>
        static readonly uint[] NoticeTextStarts =
        {
            0u, 2u, 5u
        };

        /// <summary>Keys of the saved fields.</summary>
        static readonly uint[] SaveKeys =
        {
            0x61fce60fu, 0xf3f00dbau, 0x4b003e04u, 0xcf5f1781u, 0x738e7afbu, 0xeef5f1b9u, 0x979147f7u,
            0x8e30e6b4u, 0xc6a36591u, 0x1d53ffbu, 0xb25c12f4u, 0xf219cddu, 0xfa80bb24u, 0x948ac393u,
            0xb64aec1du, 0x77cd58eau, 0x9dff9adbu, 0xebcd70c2u, 0x1e38b688u, 0x29c5642bu, 0x1a2ba080u,
            0xf5bb38b7u, 0xbd763971u, 0x7568b389u, 0x8b0f0b16u, 0x4d4462e0u, 0xeee9a83fu, 0xa11805efu,
            0x594dd47eu, 0x7311072eu, 0x97b93994u, 0xb44e9fcfu, 0x75f62afdu, 0x95df5b27u, 0xc03745b6u,
            0x25a40c24u, 0xae6f962du, 0x5f503edcu, 0x3f7fc856u, 0x808b40b7u, 0x72db5e26u, 0x37eb6c3du,
            0x15896cfau, 0xd00d823cu, 0x137e1032u, 0x4163390bu, 0xd82cb83cu, 0xfdc758u, 0x31158687u,
            0xc936b300u, 0x33245cbfu, 0xbf8ddac4u, 0x744215d4u, 0x4accf95au, 0xf334709au, 0x9291b544u,
            0x7c149e9du, 0xc8f8cf3bu, 0x990eaa7du, 0xdf178a2eu, 0x35911a6bu, 0x4665aaa1u, 0x98fcc1b9u,
            0x4bab7fc2u, 0x456bcddfu, 0xf2fb69cfu, 0x757733c1u, 0xd31fad1du
        };

        /// <summary>Their kinds, times 2^24, plus counts.</summary>
        static readonly uint[] SaveHeads =
        {
            0x1000001u, 0x2000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x3000001u, 0x1000001u,
            0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u,
            0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x2000001u, 0x1000001u,
            0x1000001u, 0x1000001u, 0x1000001u, 0x2000001u, 0x1000001u, 0x1000001u, 0x3000001u, 0x1000001u,
            0x1000001u, 0x1000001u, 0x1000001u, 0x2000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000020u,
            0x1000020u, 0x1000020u, 0x1000020u, 0x1000020u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u,
            0x1000020u, 0x1000001u, 0x1000003u, 0x1000003u, 0x1000003u, 0x1000020u, 0x1000003u, 0x100000cu,
            0x1000003u, 0x1000001u, 0x1000001u, 0x1000006u, 0x1000006u, 0x1000006u, 0x1000006u, 0x1000006u,
            0x1000006u, 0x1000006u, 0x1000006u, 0x1000001u
        };

        /// <summary>Keys of the options of choices and modes.</summary>
        static readonly uint[] OptionKeys =
        {
            0x449e4f82u, 0x75cc37du, 0xb1d77eb4u, 0x2c57e7d0u, 0x1cbf3d26u
        };

        /// <summary>Keys of fields that the preview saves too and this file does not use.</summary>
        static readonly uint[] SaveUnused =
        {
            0x2363e9c6u, 0xfa393b02u, 0xcad7ad04u, 0x3f6caab2u, 0x10486bfbu, 0x28c29ad9u, 0x99007db1u,
            0x1977065fu, 0x1a8f76fbu, 0xb60b8925u, 0xeab2eaa5u, 0xc279d0deu
        };

        /// <summary>Signal, shared by all that use it</summary>
        static double SunMoment(double hour, double season)
        {
            return season - WrapTime(season, 1.0) + 9130.5 + hour / 24.0;
        }

        /// <summary>Signal, shared by all that use it, deg -- pier.caltrin:16: sun { latitude
        /// 54deg; date season }</summary>
        static double SunHeight(double hour, double season)
        {
            return ArcSine(SkyPart(1.0, SunMoment(hour, season), 0.0, 54.0, 0.0));
        }

        /// <summary>Signal, shared by all that use it, deg -- pier.caltrin:16: sun { latitude
        /// 54deg; date season }</summary>
        static double SunAzimuth(double hour, double season)
        {
            double sunMomentNow = SunMoment(hour, season);
            return Compass(SkyPart(0.0, sunMomentNow, 0.0, 54.0, 0.0),
                -SkyPart(2.0, sunMomentNow, 0.0, 54.0, 0.0));
        }

        /// <summary>Signal, shared by all that use it</summary>
        static double SunDay(double season)
        {
            return season - WrapTime(season, 1.0) + 9130.5;
        }

        /// <summary>Curve over x degrees</summary>
        static double BeamColorL(double x)
        {
            if (x < -1.0) return 0.76556921644744;
            if (x < 5.0)
            {
                if (x < -0.833)
                {
                    return 0.76556921644744 + 0.0034616770224059623 * ((x + 1.0) / 0.16700000000000004);
                }
                if (x < 0.0) return 0.769030893469846 + 0.02389409999351011 * ((x + 0.833) / 0.833);
                if (x < 1.0) return 0.7929249934633561 + 0.03311019128050918 * x;
                if (x < 2.0) return 0.8260351847438653 + 0.02858102800850204 * (x - 1.0);
                if (x < 3.0) return 0.8546162127523673 + 0.022333433690773008 * (x - 2.0);
                if (x < 5.0) return 0.8769496464431403 + 0.030483629821329572 * ((x - 3.0) / 2.0);
                return 0.9074332762644699;
            }
            if (x < 8.0) return 0.9074332762644699 + 0.026006758231013616 * ((x - 5.0) / 3.0);
            if (x < 12.0) return 0.9334400344954835 + 0.01840473974710244 * ((x - 8.0) / 4.0);
            if (x < 20.0) return 0.951844774242586 + 0.017073676766362733 * ((x - 12.0) / 8.0);
            if (x < 35.0) return 0.9689184510089487 + 0.01187939181858444 * ((x - 20.0) / 15.0);
            if (x < 60.0) return 0.9807978428275331 + 0.006256078091570805 * ((x - 35.0) / 25.0);
            if (x < 90.0) return 0.9870539209191039 + 0.0016906898945302506 * ((x - 60.0) / 30.0);
            return 0.9887446108136342;
        }

        /// <summary>Curve over x degrees</summary>
        static double BeamColorM(double x)
        {
            if (x < -1.0) return 0.6367756176213368;
            if (x < 5.0)
            {
                if (x < -0.833)
                {
                    return 0.6367756176213368 + 0.006316339277870342 * ((x + 1.0) / 0.16700000000000004);
                }
                if (x < 0.0) return 0.6430919568992072 + 0.04197283587181311 * ((x + 0.833) / 0.833);
                if (x < 1.0) return 0.6850647927710203 + 0.054501515243042586 * x;
                if (x < 2.0) return 0.7395663080140629 + 0.04469637475266908 * (x - 1.0);
                if (x < 3.0) return 0.7842626827667319 + 0.03392431322623923 * (x - 2.0);
                if (x < 5.0) return 0.8181869959929712 + 0.04543678850478583 * ((x - 3.0) / 2.0);
                return 0.863623784497757;
            }
            if (x < 8.0) return 0.863623784497757 + 0.03834700926595569 * ((x - 5.0) / 3.0);
            if (x < 12.0) return 0.9019707937637127 + 0.027063792179308988 * ((x - 8.0) / 4.0);
            if (x < 20.0) return 0.9290345859430217 + 0.025114345467018406 * ((x - 12.0) / 8.0);
            if (x < 35.0) return 0.9541489314100401 + 0.01749707409700796 * ((x - 20.0) / 15.0);
            if (x < 60.0) return 0.971646005507048 + 0.009228483246774943 * ((x - 35.0) / 25.0);
            if (x < 90.0) return 0.980874488753823 + 0.0024941095522693635 * ((x - 60.0) / 30.0);
            return 0.9833685983060924;
        }

        /// <summary>Curve over x degrees</summary>
        static double BeamColorS(double x)
        {
            if (x < -1.0) return 0.47551720686508486;
            if (x < 5.0)
            {
                if (x < -0.833)
                {
                    return 0.47551720686508486 + 0.004688051812609784 * ((x + 1.0) / 0.16700000000000004);
                }
                if (x < 0.0) return 0.48020525867769465 + 0.03213414280986854 * ((x + 0.833) / 0.833);
                if (x < 1.0) return 0.5123394014875632 + 0.046113756680241424 * x;
                if (x < 2.0) return 0.5584531581678046 + 0.045632238587331786 * (x - 1.0);
                if (x < 3.0) return 0.6040853967551364 + 0.042034465795594 * (x - 2.0);
                if (x < 5.0) return 0.6461198625507304 + 0.06882335788930949 * ((x - 3.0) / 2.0);
                return 0.7149432204400399;
            }
            if (x < 8.0) return 0.7149432204400399 + 0.06956395498472612 * ((x - 5.0) / 3.0);
            if (x < 12.0) return 0.784507175424766 + 0.05489706143893658 * ((x - 8.0) / 4.0);
            if (x < 20.0) return 0.8394042368637026 + 0.054480201757178603 * ((x - 12.0) / 8.0);
            if (x < 35.0) return 0.8938844386208812 + 0.039598989406408935 * ((x - 20.0) / 15.0);
            if (x < 60.0) return 0.9334834280272901 + 0.021378761768959365 * ((x - 35.0) / 25.0);
            if (x < 90.0) return 0.9548621897962495 + 0.005808854794570939 * ((x - 60.0) / 30.0);
            return 0.9606710445908204;
        }

        /// <summary>Curve over x degrees</summary>
        static double BeamStrength(double x)
        {
            if (x < -0.833) return 0.0;
            if (x < 0.0) return 0.0215 * ((x + 0.833) / 0.833);
            if (x < 1.0) return 0.0215 + 0.032600000000000004 * x;
            if (x < 2.0) return 0.0541 + 0.0452 * (x - 1.0);
            if (x < 3.0) return 0.0993 + 0.05099999999999999 * (x - 2.0);
            if (x < 5.0) return 0.1503 + 0.10189999999999999 * ((x - 3.0) / 2.0);
            if (x < 8.0) return 0.2522 + 0.1311 * ((x - 5.0) / 3.0);
            if (x < 12.0) return 0.3833 + 0.13190000000000002 * ((x - 8.0) / 4.0);
            if (x < 20.0) return 0.5152 + 0.17000000000000004 * ((x - 12.0) / 8.0);
            if (x < 35.0) return 0.6852 + 0.16479999999999995 * ((x - 20.0) / 15.0);
            if (x < 60.0) return 0.85 + 0.11430000000000007 * ((x - 35.0) / 25.0);
            if (x < 90.0) return 0.9643 + 0.035699999999999954 * ((x - 60.0) / 30.0);
            return 1.0;
        }

        /// <summary>Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunAimX(double hour, double season)
        {
            return -SkyPart(0.0, SunMoment(hour, season), 0.0, 54.0, 0.0);
        }

        /// <summary>Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunAimY(double hour, double season)
        {
            return -SkyPart(1.0, SunMoment(hour, season), 0.0, 54.0, 0.0);
        }

        /// <summary>Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunAimZ(double hour, double season)
        {
            return -SkyPart(2.0, SunMoment(hour, season), 0.0, 54.0, 0.0);
        }

        /// <summary>Signal, shared by all that use it, h -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunRise(double season)
        {
            return SunHour(-1.0, SunDay(season), 54.0, 0.0, -0.014538080502491512);
        }

        /// <summary>Signal, shared by all that use it, h -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunSet(double season)
        {
            return SunHour(1.0, SunDay(season), 54.0, 0.0, -0.014538080502491512);
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunDaylight(double hour, double season)
        {
            return Lerp(0.0, 1.0, EaseSmooth(Clamp((SunHeight(hour, season) + 6.0) / 12.0, 0.0, 1.0)));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunColorR(double hour, double season)
        {
            double sunHeightNow = SunHeight(hour, season);
            return LightR(BeamColorL(sunHeightNow), BeamColorM(sunHeightNow), BeamColorS(sunHeightNow));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunColorG(double hour, double season)
        {
            double sunHeightNow = SunHeight(hour, season);
            return LightG(BeamColorL(sunHeightNow), BeamColorM(sunHeightNow), BeamColorS(sunHeightNow));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunColorB(double hour, double season)
        {
            double sunHeightNow = SunHeight(hour, season);
            return LightB(BeamColorL(sunHeightNow), BeamColorM(sunHeightNow), BeamColorS(sunHeightNow));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg;
        /// date season }</summary>
        static double SunStrength(double hour, double season)
        {
            return BeamStrength(SunHeight(hour, season));
        }

        /// <summary>Signal, shared by all that use it</summary>
        static double MoonMoment(double hour, double season)
        {
            return season - WrapTime(season, 1.0) + 9130.5 + hour / 24.0;
        }

        /// <summary>Signal, shared by all that use it, deg -- pier.caltrin:17: moon { age 9 + days
        /// }</summary>
        static double MoonHeight(double hour, double days, double season)
        {
            return ArcSine(SkyPart(1.0, MoonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588,
                    54.0, 0.0));
        }

        /// <summary>Curve over x as a number</summary>
        static double MoonByAge(double x)
        {
            if (x < 0.0) return 0.0003;
            if (x < 0.1) return 0.0003 + 0.0013000000000000002 * (x / 0.1);
            if (x < 0.2) return 0.0016 + 0.0049 * ((x - 0.1) / 0.1);
            if (x < 0.3) return 0.0065 + 0.012800000000000002 * ((x - 0.2) / 0.09999999999999998);
            if (x < 0.4) return 0.0193 + 0.0263 * ((x - 0.3) / 0.10000000000000003);
            if (x < 0.5) return 0.0456 + 0.045399999999999996 * ((x - 0.4) / 0.09999999999999998);
            if (x < 0.6) return 0.091 + 0.07050000000000001 * ((x - 0.5) / 0.09999999999999998);
            if (x < 0.7) return 0.1615 + 0.10440000000000002 * ((x - 0.6) / 0.09999999999999998);
            if (x < 0.8) return 0.2659 + 0.1538 * ((x - 0.7) / 0.10000000000000009);
            if (x < 0.9) return 0.4197 + 0.22989999999999994 * ((x - 0.8) / 0.09999999999999998);
            if (x < 1.0) return 0.6496 + 0.35040000000000004 * ((x - 0.9) / 0.09999999999999998);
            return 1.0;
        }

        /// <summary>Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days }</summary>
        static double MoonAimX(double hour, double days, double season)
        {
            return -SkyPart(0.0, MoonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
        }

        /// <summary>Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days }</summary>
        static double MoonAimY(double hour, double days, double season)
        {
            return -SkyPart(1.0, MoonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
        }

        /// <summary>Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days }</summary>
        static double MoonAimZ(double hour, double days, double season)
        {
            return -SkyPart(2.0, MoonMoment(hour, season), (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:17: moon { age 9 + days }</summary>
        static double MoonStrength(double hour, double days, double season)
        {
            return BeamStrength(MoonHeight(hour, days, season))
                * MoonByAge(TriangleLevel((9.0 + days + hour / 24.0) / 29.530588));
        }

        /// <summary>Signal, shared by all that use it</summary>
        static double SunHorizonStays(double season)
        {
            return SunStays(SunDay(season), 54.0, 0.0, -0.014538080502491512);
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:19: hours dark from sun.set
        /// to sun.rise over 00:30 after</summary>
        static double Dark(double hour, double season)
        {
            double sunHorizonStaysNow = SunHorizonStays(season);
            return sunHorizonStaysNow > 0.75
                ? 0.0
                : -0.75 > sunHorizonStaysNow
                ? 1.0
                : EaseSmooth(Clamp(HoursLevel(hour, SunSet(season), 0.5, SunRise(season), 0.5), 0.0, 1.0));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:22: night from 21:30 over
        /// 01:00 before tint #7f9fd8</summary>
        static double WatchNight(double hour)
        {
            return EaseSmooth(Clamp(HoursLevel(hour, 20.5, 1.0, 4.5, 1.0), 0.0, 1.0));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:23: morning from 05:00 over
        /// 01:00 tint #a9c4b4</summary>
        static double WatchMorning(double hour)
        {
            return EaseSmooth(Clamp(HoursLevel(hour, 4.5, 1.0, 8.75, 1.5), 0.0, 1.0));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:24: forenoon from 09:30 over
        /// 01:30 tint #fff6e4</summary>
        static double WatchForenoon(double hour)
        {
            return EaseSmooth(Clamp(HoursLevel(hour, 8.75, 1.5, 14.0, 2.0), 0.0, 1.0));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:25: evening from 15:00 over
        /// 02:00 tint #ffcf8a</summary>
        static double WatchEvening(double hour)
        {
            return EaseSmooth(Clamp(HoursLevel(hour, 14.0, 2.0, 20.5, 1.0), 0.0, 1.0));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches
        /// of the pier's crew)</summary>
        static double WatchTintR(double hour)
        {
            double watchNightNow = WatchNight(hour);
            double watchMorningNow = WatchMorning(hour);
            double watchForenoonNow = WatchForenoon(hour);
            double watchEveningNow = WatchEvening(hour);
            return LightR(Clamp(0.6758877802301922 * watchNightNow
                        + 0.7846518148414676 * watchMorningNow
                        + 0.9818072823266701 * watchForenoonNow
                        + 0.9125592497722734 * watchEveningNow, 0.6758877802301922, 0.9818072823266701),
                Clamp(0.7078847675495546 * watchNightNow
                        + 0.7983533337292693 * watchMorningNow
                        + 0.9734847537076345 * watchForenoonNow
                        + 0.872382696771993 * watchEveningNow, 0.7078847675495546, 0.9734847537076345),
                Clamp(0.8188297202235845 * watchNightNow
                        + 0.7819258288945272 * watchMorningNow
                        + 0.9422944153106793 * watchForenoonNow
                        + 0.7513718714261628 * watchEveningNow, 0.7513718714261628, 0.9422944153106793));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches
        /// of the pier's crew)</summary>
        static double WatchTintG(double hour)
        {
            double watchNightNow = WatchNight(hour);
            double watchMorningNow = WatchMorning(hour);
            double watchForenoonNow = WatchForenoon(hour);
            double watchEveningNow = WatchEvening(hour);
            return LightG(Clamp(0.6758877802301922 * watchNightNow
                        + 0.7846518148414676 * watchMorningNow
                        + 0.9818072823266701 * watchForenoonNow
                        + 0.9125592497722734 * watchEveningNow, 0.6758877802301922, 0.9818072823266701),
                Clamp(0.7078847675495546 * watchNightNow
                        + 0.7983533337292693 * watchMorningNow
                        + 0.9734847537076345 * watchForenoonNow
                        + 0.872382696771993 * watchEveningNow, 0.7078847675495546, 0.9734847537076345),
                Clamp(0.8188297202235845 * watchNightNow
                        + 0.7819258288945272 * watchMorningNow
                        + 0.9422944153106793 * watchForenoonNow
                        + 0.7513718714261628 * watchEveningNow, 0.7513718714261628, 0.9422944153106793));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches
        /// of the pier's crew)</summary>
        static double WatchTintB(double hour)
        {
            double watchNightNow = WatchNight(hour);
            double watchMorningNow = WatchMorning(hour);
            double watchForenoonNow = WatchForenoon(hour);
            double watchEveningNow = WatchEvening(hour);
            return LightB(Clamp(0.6758877802301922 * watchNightNow
                        + 0.7846518148414676 * watchMorningNow
                        + 0.9818072823266701 * watchForenoonNow
                        + 0.9125592497722734 * watchEveningNow, 0.6758877802301922, 0.9818072823266701),
                Clamp(0.7078847675495546 * watchNightNow
                        + 0.7983533337292693 * watchMorningNow
                        + 0.9734847537076345 * watchForenoonNow
                        + 0.872382696771993 * watchEveningNow, 0.7078847675495546, 0.9734847537076345),
                Clamp(0.8188297202235845 * watchNightNow
                        + 0.7819258288945272 * watchMorningNow
                        + 0.9422944153106793 * watchForenoonNow
                        + 0.7513718714261628 * watchEveningNow, 0.7513718714261628, 0.9422944153106793));
        }

        /// <summary>Signal, shared by all that use it, s -- pier.caltrin:31: sound horn =
        /// "sounds/horn.wav" { starts at ferry_docks } (the ferry sounds two blasts)</summary>
        static double HornPlace(double t, double hornAt, double hornSince, bool hornPlays)
        {
            return hornPlays ? hornAt + Max(t - hornSince, 0.0) : hornAt;
        }

        /// <summary>Signal, shared by all that use it, s -- pier.caltrin:32: sound ratchet =
        /// "sounds/winch.wav" { speed haul }</summary>
        static double RatchetPlace(double t, double haul, double ratchetAt, double ratchetSince,
            double ratchetRate)
        {
            return ratchetAt + Max(t - ratchetSince, 0.0) * Max(ratchetRate > -0.5 ? ratchetRate : haul, 0.0);
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:36: switch power (power from
        /// the generator)</summary>
        static double Power(double t, bool powerOn, double powerSince, double powerFrom)
        {
            return powerOn
                ? (powerSince + 2.0 > t
                    ? Lerp(powerFrom, 1.0, EaseSmooth(Clamp((t - powerSince) / 2.0, 0.0, 1.0)))
                    : 1.0)
                : powerSince + 0.06 > t
                ? Lerp(powerFrom, 0.0, Clamp((t - powerSince) / 0.06, 0.0, 1.0))
                : 0.0;
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:42: modes warning (state of
        /// the sea)</summary>
        static double WarningWatch(double t, double warningMode, double warningEntered, double warningWay,
            double warningFromWatch)
        {
            bool oddOne = warningWay == 0.0;
            bool oddOne_2 = warningWay == 1.0;
            double part = warningMode == 1.0 ? 1.0 : 0.0;
            return (oddOne
                    ? warningEntered + 3.0 > t
                    : oddOne_2
                    ? warningEntered + 0.4 > t
                    : warningEntered + 5.0 > t)
                ? Lerp(warningFromWatch, part,
                    oddOne
                        ? Clamp((t - warningEntered) / 3.0, 0.0, 1.0)
                        : oddOne_2
                        ? Clamp((t - warningEntered) / 0.4, 0.0, 1.0)
                        : Clamp((t - warningEntered) / 5.0, 0.0, 1.0))
                : part;
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:42: modes warning (state of
        /// the sea)</summary>
        static double WarningAlarm(double t, double warningMode, double warningEntered, double warningWay,
            double warningFromAlarm)
        {
            bool oddOne = warningWay == 0.0;
            bool oddOne_2 = warningWay == 1.0;
            double part = warningMode == 2.0 ? 1.0 : 0.0;
            return (oddOne
                    ? warningEntered + 3.0 > t
                    : oddOne_2
                    ? warningEntered + 0.4 > t
                    : warningEntered + 5.0 > t)
                ? Lerp(warningFromAlarm, part,
                    oddOne
                        ? Clamp((t - warningEntered) / 3.0, 0.0, 1.0)
                        : oddOne_2
                        ? Clamp((t - warningEntered) / 0.4, 0.0, 1.0)
                        : Clamp((t - warningEntered) / 5.0, 0.0, 1.0))
                : part;
        }

        /// <summary>Curve over x seconds -- pier.caltrin:52: curve hunting (the generator hunts for
        /// its speed, 7.3 s per cycle)</summary>
        static double Hunting(double x)
        {
            if (x < 1.4) return 1.0;
            if (x < 1.85) return 1.0 - 0.18000000000000005 * EaseSmooth((x - 1.4) / 0.4500000000000002);
            if (x < 2.5) return 0.82 + 0.30000000000000016 * EaseSmooth((x - 1.85) / 0.6499999999999999);
            if (x < 3.0) return Lerp(1.12, 0.95, EaseBaked(SpreadEnds((x - 2.5) / 0.5), EaseOutPieces, 16));
            if (x < 3.7) return 0.95 + 0.050000000000000044 * EaseSmooth((x - 3.0) / 0.7000000000000002);
            return 1.0;
        }

        /// <summary>Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height
        /// of the sun, gray-green before noon)</summary>
        static double MorningL(double x)
        {
            if (x < -9.0) return 0.1832537775717708;
            if (x < -3.0) return 0.1832537775717708 + 0.19452205585044774 * EaseSmooth((x + 9.0) / 6.0);
            if (x < 2.0) return 0.37777583342221854 + 0.3100063341823164 * EaseSmooth((x + 3.0) / 5.0);
            if (x < 9.0) return 0.6877821676045349 + 0.0823375253538956 * ((x - 2.0) / 7.0);
            if (x < 25.0) return 0.7701196929584305 + 0.0451418317144755 * ((x - 9.0) / 16.0);
            return 0.815261524672906;
        }

        /// <summary>Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height
        /// of the sun, gray-green before noon)</summary>
        static double MorningM(double x)
        {
            if (x < -9.0) return 0.19279209182171184;
            if (x < -3.0) return 0.19279209182171184 + 0.1970373006888795 * EaseSmooth((x + 9.0) / 6.0);
            if (x < 2.0) return 0.38982939251059134 + 0.30830698829985115 * EaseSmooth((x + 3.0) / 5.0);
            if (x < 9.0) return 0.6981363808104425 + 0.08233100640067303 * ((x - 2.0) / 7.0);
            if (x < 25.0) return 0.7804673872111155 + 0.045246800169307155 * ((x - 9.0) / 16.0);
            return 0.8257141873804227;
        }

        /// <summary>Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height
        /// of the sun, gray-green before noon)</summary>
        static double MorningS(double x)
        {
            if (x < -9.0) return 0.22522903602175648;
            if (x < -3.0) return 0.22522903602175648 + 0.182928683999867 * EaseSmooth((x + 9.0) / 6.0);
            if (x < 2.0) return 0.4081577200216235 + 0.2755264654602965 * EaseSmooth((x + 3.0) / 5.0);
            if (x < 9.0) return 0.68368418548192 + 0.09062253576762525 * ((x - 2.0) / 7.0);
            if (x < 25.0) return 0.7743067212495452 + 0.06848678914401352 * ((x - 9.0) / 16.0);
            return 0.8427935103935588;
        }

        /// <summary>Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it)</summary>
        static double EveningL(double x)
        {
            if (x < -9.0) return 0.1832537775717708;
            if (x < -3.0) return 0.1832537775717708 + 0.19377461856794748 * EaseSmooth((x + 9.0) / 6.0);
            if (x < 2.0) return 0.3770283961397183 + 0.3057765626714638 * EaseSmooth((x + 3.0) / 5.0);
            if (x < 9.0) return 0.6828049588111821 + 0.0856242707120295 * ((x - 2.0) / 7.0);
            if (x < 25.0) return 0.7684292295232116 + 0.04683229514969445 * ((x - 9.0) / 16.0);
            return 0.815261524672906;
        }

        /// <summary>Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it)</summary>
        static double EveningM(double x)
        {
            if (x < -9.0) return 0.19279209182171184;
            if (x < -3.0) return 0.19279209182171184 + 0.16980416577719135 * EaseSmooth((x + 9.0) / 6.0);
            if (x < 2.0) return 0.3625962575989032 + 0.28484235797777474 * EaseSmooth((x + 3.0) / 5.0);
            if (x < 9.0) return 0.6474386155766779 + 0.09816269870779493 * ((x - 2.0) / 7.0);
            if (x < 25.0) return 0.7456013142844728 + 0.08011287309594983 * ((x - 9.0) / 16.0);
            return 0.8257141873804227;
        }

        /// <summary>Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it)</summary>
        static double EveningS(double x)
        {
            if (x < -9.0) return 0.22522903602175648;
            if (x < -3.0) return 0.22522903602175648 + 0.1206337029642604 * EaseSmooth((x + 9.0) / 6.0);
            if (x < 2.0) return 0.3458627389860169 + 0.18241108266769185 * EaseSmooth((x + 3.0) / 5.0);
            if (x < 9.0) return 0.5282738216537087 + 0.13355474136133627 * ((x - 2.0) / 7.0);
            if (x < 25.0) return 0.661828563015045 + 0.18096494737851376 * ((x - 9.0) / 16.0);
            return 0.8427935103935588;
        }

        /// <summary>Curve over x seconds -- pier.caltrin:78: curve breathing</summary>
        static double Breathing(double x)
        {
            if (x < 2.3) return Lerp(0.18, 1.0, EaseBaked(x / 2.3, EaseInOutPieces, 8));
            if (x < 3.1)
            {
                return 1.0
                    + -0.07999999999999996 * EaseBaked((x - 2.3) / 0.8000000000000003, Bezier3Pieces, 16);
            }
            return 0.92;
        }

        /// <summary>Curve over x seconds -- pier.caltrin:84: curve warming (a cold tube strikes
        /// twice, then warms up)</summary>
        static double Warming(double x)
        {
            if (x < 0.3) return 0.0;
            if (x < 0.36) return 0.7;
            if (x < 1.1) return 0.05;
            if (x < 1.3) return 0.6 - 0.19999999999999996 * EaseSmooth((x - 1.1) / 0.19999999999999996);
            if (x < 9.0) return Lerp(0.4, 1.0, EaseBaked(SpreadEnds((x - 1.3) / 7.7), EaseOutPieces, 16));
            return 1.0;
        }

        /// <summary>Curve over x seconds -- pier.caltrin:93: curve striking (a warm tube goes out,
        /// flashes and strikes again)</summary>
        static double Striking(double x)
        {
            if (x < 0.26) return 0.0;
            if (x < 0.33) return 0.75;
            if (x < 0.61) return 0.04;
            return 1.0;
        }

        /// <summary>Curve over x as a number -- pier.caltrin:100: curve fading (a star shell: full
        /// at once, then fading to nothing)</summary>
        static double Fading(double x)
        {
            if (x < 0.0) return 0.0;
            if (x < 0.06) return Lerp(0.0, 1.0, EaseBaked(SpreadEnds(x / 0.06), EaseOutPieces, 16));
            if (x < 0.45) return 1.0 - 0.19999999999999996 * ((x - 0.06) / 0.39);
            if (x < 1.0) return 0.8 - 0.8 * EaseSmooth((x - 0.45) / 0.55);
            return 0.0;
        }

        /// <summary>Curve over x seconds -- pier.caltrin:107: curve opening (the lamp at the gate
        /// flashes when it opens, and stays on)</summary>
        static double Opening(double x)
        {
            if (x < 0.0) return 0.0;
            if (x < 0.15) return Lerp(0.0, 1.0, EaseBaked(SpreadEnds(x / 0.15), EaseOutPieces, 16));
            if (x < 0.4) return 1.0 - 0.7 * EaseSmooth((x - 0.15) / 0.25);
            if (x < 0.7) return 0.3 + 0.7 * EaseSmooth((x - 0.4) / 0.29999999999999993);
            if (x < 14.0) return 1.0;
            if (x < 17.0) return 1.0 - EaseSmooth((x - 14.0) / 3.0);
            return 0.0;
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:116: signal supply =
        /// loop(hunting)</summary>
        static double Supply(double t)
        {
            return Hunting(WrapTime(t, 7.3));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:117: signal afternoon =
        /// map(sun.azimuth, from 160deg..200deg, to 0%..100%, smooth)</summary>
        static double Afternoon(double hour, double season)
        {
            return Lerp(0.0, 1.0, EaseSmooth(Clamp((SunAzimuth(hour, season) - 160.0) / 40.0, 0.0, 1.0)));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky =
        /// mix(morning(sun.height), evening(sun.height), by afternoon)</summary>
        static double ClearSkyR(double hour, double season)
        {
            double sunHeightNow = SunHeight(hour, season);
            double afternoonNow = Afternoon(hour, season);
            return LightR(Lerp(MorningL(sunHeightNow), EveningL(sunHeightNow), afternoonNow),
                Lerp(MorningM(sunHeightNow), EveningM(sunHeightNow), afternoonNow),
                Lerp(MorningS(sunHeightNow), EveningS(sunHeightNow), afternoonNow));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky =
        /// mix(morning(sun.height), evening(sun.height), by afternoon)</summary>
        static double ClearSkyG(double hour, double season)
        {
            double sunHeightNow = SunHeight(hour, season);
            double afternoonNow = Afternoon(hour, season);
            return LightG(Lerp(MorningL(sunHeightNow), EveningL(sunHeightNow), afternoonNow),
                Lerp(MorningM(sunHeightNow), EveningM(sunHeightNow), afternoonNow),
                Lerp(MorningS(sunHeightNow), EveningS(sunHeightNow), afternoonNow));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky =
        /// mix(morning(sun.height), evening(sun.height), by afternoon)</summary>
        static double ClearSkyB(double hour, double season)
        {
            double sunHeightNow = SunHeight(hour, season);
            double afternoonNow = Afternoon(hour, season);
            return LightB(Lerp(MorningL(sunHeightNow), EveningL(sunHeightNow), afternoonNow),
                Lerp(MorningM(sunHeightNow), EveningM(sunHeightNow), afternoonNow),
                Lerp(MorningS(sunHeightNow), EveningS(sunHeightNow), afternoonNow));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:119: signal sky =
        /// pick(weather, fair clear_sky, overcast mix(#0b0f14, #77858d, by sun.daylight))</summary>
        static double SkyR(double hour, double season, double weatherOvercast)
        {
            double clearSkyNowR = ClearSkyR(hour, season);
            double clearSkyNowG = ClearSkyG(hour, season);
            double clearSkyNowB = ClearSkyB(hour, season);
            double sunDaylightNow = SunDaylight(hour, season);
            return LightR(Lerp(ConeL(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.16263142285853904, 0.5995780250315662, sunDaylightNow), weatherOvercast),
                Lerp(ConeM(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.16765047234679506, 0.6103349854360245, sunDaylightNow), weatherOvercast),
                Lerp(ConeS(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.18219759144761766, 0.6300993101954723, sunDaylightNow), weatherOvercast));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:119: signal sky =
        /// pick(weather, fair clear_sky, overcast mix(#0b0f14, #77858d, by sun.daylight))</summary>
        static double SkyG(double hour, double season, double weatherOvercast)
        {
            double clearSkyNowR = ClearSkyR(hour, season);
            double clearSkyNowG = ClearSkyG(hour, season);
            double clearSkyNowB = ClearSkyB(hour, season);
            double sunDaylightNow = SunDaylight(hour, season);
            return LightG(Lerp(ConeL(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.16263142285853904, 0.5995780250315662, sunDaylightNow), weatherOvercast),
                Lerp(ConeM(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.16765047234679506, 0.6103349854360245, sunDaylightNow), weatherOvercast),
                Lerp(ConeS(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.18219759144761766, 0.6300993101954723, sunDaylightNow), weatherOvercast));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:119: signal sky =
        /// pick(weather, fair clear_sky, overcast mix(#0b0f14, #77858d, by sun.daylight))</summary>
        static double SkyB(double hour, double season, double weatherOvercast)
        {
            double clearSkyNowR = ClearSkyR(hour, season);
            double clearSkyNowG = ClearSkyG(hour, season);
            double clearSkyNowB = ClearSkyB(hour, season);
            double sunDaylightNow = SunDaylight(hour, season);
            return LightB(Lerp(ConeL(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.16263142285853904, 0.5995780250315662, sunDaylightNow), weatherOvercast),
                Lerp(ConeM(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.16765047234679506, 0.6103349854360245, sunDaylightNow), weatherOvercast),
                Lerp(ConeS(clearSkyNowR, clearSkyNowG, clearSkyNowB),
                    Lerp(0.18219759144761766, 0.6300993101954723, sunDaylightNow), weatherOvercast));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:120: signal overhead =
        /// sun.daylight * pick(weather, fair 100%, overcast 35%)</summary>
        static double Overhead(double hour, double season, double weatherOvercast)
        {
            return SunDaylight(hour, season) * Lerp(1.0, 0.35, weatherOvercast);
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:122: signal blare =
        /// follow(horn, attack 20ms, release 280ms)</summary>
        static double Blare(double t, double hornAt, double hornSince, bool hornPlays, double hornChanged,
            double blareHornFollow0From)
        {
            return Max(hornPlays
                    ? EnvelopeLevel(HornPlace(t, hornAt, hornSince, hornPlays) * 3840.0, HornEnvelope, 48)
                    : 0.0, blareHornFollow0From * Decay((t - hornChanged) / 0.28));
        }

        /// <summary>Signal, shared by all that use it -- pier.caltrin:123: signal stroke =
        /// follow(buoy, measure peak, attack 4ms, release 450ms)</summary>
        static double Stroke(double t)
        {
            return EnvelopeLevel(WrapTime(t, 7.5) * 3840.0, BuoyEnvelope, 54);
        }

        /// <summary>Behavior, a copy for each use -- pier.caltrin:128: behavior buzzing(floor =
        /// 85%) = held(floor..100%, every 60ms..240ms)</summary>
        static double Buzzing(double t, uint key, double floor)
        {
            return Lerp(floor, 1.0, HeldLevel(t, ChanceKey(key, 0xc3f69953u), 6.666666666666667, 0.3));
        }

        /// <summary>Behavior, a copy for each use -- pier.caltrin:130: behavior guttering(depth =
        /// 35%, draft = 400ms)</summary>
        static double Guttering(double t, uint key, double depth, double draft)
        {
            double flame = 0.8
                + 0.19999999999999996
                    * HeldLevel(t, ChanceKey(key, 0xd2611993u), 7.142857142857142, 0.24999999999999994);
            double longest = draft * 5.0;
            double sum = draft + longest;
            double gust = SoftLevel(t, ChanceKey(key, 0xfd5749adu), 2.0 / sum,
                (longest - draft) / (2.0 * sum), 0.3);
            return flame * (1.0 - depth * EaseSmooth(Clamp((gust - 0.72) / 0.12, 0.0, 1.0)));
        }

        /// <summary>Curve over x seconds</summary>
        static double HarborLightRhythm(double x)
        {
            if (x < 0.4) return 1.0;
            if (x < 1.2000000000000002) return 0.0;
            if (x < 1.6) return 1.0;
            if (x < 6.0) return 0.0;
            return 1.0;
        }

        /// <summary>Signal, shared by all that use it, s -- pier.caltrin:254: sequence docking at
        /// ferry_docks (the gangway is lit while passengers board)</summary>
        static double DockingAt(double t, double dockingStarted)
        {
            return dockingStarted > -1.5e9
                ? Max(t - dockingStarted,
                    dockingStarted + 1.0 > t
                        ? 0.0
                        : dockingStarted + 2.5 > t
                        ? 1.0
                        : dockingStarted + 16.0 > t
                        ? 2.5
                        : dockingStarted + 18.0 > t
                        ? 16.0
                        : dockingStarted + 20.0 > t
                        ? 18.0
                        : dockingStarted + 24.0 > t
                        ? 20.0
                        : 24.0)
                : -1.0;
        }

        /// <summary>Curve over x seconds</summary>
        static double DockingGangwayColorL(double x)
        {
            if (x < 0.0) return 0.9010167023289669;
            if (x < 1.0) return 0.9010167023289669 - 0.03697220558852521 * EaseSmooth(x);
            return 0.8640444967404417;
        }

        /// <summary>Curve over x seconds</summary>
        static double DockingGangwayColorM(double x)
        {
            if (x < 0.0) return 0.8563551629324132;
            if (x < 1.0) return 0.8563551629324132 - 0.058741602712659935 * EaseSmooth(x);
            return 0.7976135602197533;
        }

        /// <summary>Curve over x seconds</summary>
        static double DockingGangwayColorS(double x)
        {
            if (x < 0.0) return 0.744272310693046;
            if (x < 1.0) return 0.744272310693046 - 0.14930352621124554 * EaseSmooth(x);
            return 0.5949687844818005;
        }

        /// <summary>Curve over x seconds</summary>
        static double DockingWeight(double x)
        {
            if (x < 20.0) return 1.0;
            if (x < 24.0) return 1.0 - EaseSmooth((x - 20.0) / 4.0);
            return 0.0;
        }

        /// <summary>Curve over x seconds</summary>
        static double DockingWeight2(double x)
        {
            if (x < 1.0) return 0.0;
            if (x < 20.0) return 1.0;
            if (x < 24.0) return 1.0 - EaseSmooth((x - 20.0) / 4.0);
            return 0.0;
        }

        /// <summary>Curve over x seconds</summary>
        static double WarningLampRhythm(double x)
        {
            if (x < 0.3) return 1.0;
            if (x < 1.0) return 0.0;
            return 1.0;
        }

        /// <summary>Largest moment that a run can reach, in seconds either side of its start (about
        /// 31 years).</summary>
        const double LastMoment = 1e9;
        /// <summary>Values nearer to zero than this are zero when they leave the kernel.</summary>
        const double Smallest = 1e-30;
        /// <summary>Later than every moment of a run.</summary>
        const double Never = 2e9;
        /// <summary>Separates the draws of levels from those of edges.</summary>
        const uint Levels = 0x68e31da4u;
        /// <summary>From the key of one octave to that of the next; also separates the draws of
        /// phases.</summary>
        const uint Octave = 0x9e3779b9u;
        /// <summary>Last moment of a day, in hours.</summary>
        const double LastHour = 23.999999999999996;
        /// <summary>How often a condition without a solvable moment is sampled, in a second.</summary>
        const double Looks = 120.0;

        /// <summary>The largest whole number not above x; a zero has no sign.</summary>
        static double RoundDown(double x)
        {
            return Math.Floor(x) + 0.0;
        }

        /// <summary>Whether v is a finite number; older libraries have no function for it.</summary>
        static bool IsFinite(double v)
        {
            return !double.IsNaN(v) && !double.IsInfinity(v);
        }

        /// <summary>A whole number as a 32-bit index that wraps.</summary>
        static uint CellIndex(double n)
        {
            return unchecked((uint)(long)n);
        }

        /// <summary>The upper 32 bits of a double.</summary>
        static uint HighBits(double v)
        {
            return unchecked((uint)(BitConverter.DoubleToInt64Bits(v) >> 32));
        }

        /// <summary>The lower 32 bits of a double.</summary>
        static uint LowBits(double v)
        {
            return unchecked((uint)BitConverter.DoubleToInt64Bits(v));
        }

        /// <summary>The double that has these bits.</summary>
        static double FromBits(uint high, uint low)
        {
            return BitConverter.Int64BitsToDouble((long)((ulong)high << 32 | low));
        }

        /// <summary>Mixes 32 bits; one-to-one, and 0 stays 0.</summary>
        static uint Scramble(uint x)
        {
            unchecked
            {
                x ^= x >> 16;
                x *= 0x21f0aaadu;
                x ^= x >> 15;
                x *= 0x735a2d97u;
                return x ^ (x >> 15);
            }
        }

        /// <summary>Key of one random place under a seed, or under another key.</summary>
        static uint ChanceKey(uint seed, uint place)
        {
            unchecked
            {
                return Scramble((Scramble(seed + Octave) ^ place) + 0x85ebca6bu);
            }
        }

        /// <summary>Key of one lamp of an array. Lamp 0 keeps the key.</summary>
        static uint LampKey(uint key, uint lamp)
        {
            return key ^ Scramble(lamp);
        }

        /// <summary>The `n`-th random draw of a key: 32 even bits.</summary>
        static uint Draw(uint key, uint n)
        {
            unchecked
            {
                return Scramble(Scramble(n + key) ^ key);
            }
        }

        /// <summary>A draw as a number from 0 to 1 (excluded), in steps of 2^-24.</summary>
        static double ToUnit(uint bits)
        {
            return (double)(bits >> 8) * (1.0 / 16777216.0);
        }

        /// <summary>The smaller of two numbers.</summary>
        static double Min(double a, double b)
        {
            return b < a ? b : a;
        }

        /// <summary>The larger of two numbers.</summary>
        static double Max(double a, double b)
        {
            return b > a ? b : a;
        }

        /// <summary>`v` limited to `lo..hi`.</summary>
        static double Clamp(double v, double lo, double hi)
        {
            double above = v < lo ? lo : v;
            return above > hi ? hi : above;
        }

        /// <summary>`lo` at 0, `hi` at 1, and never outside of the two.</summary>
        static double Lerp(double lo, double hi, double s)
        {
            double v = lo + (hi - lo) * s;
            return lo <= hi ? Clamp(v, lo, hi) : Clamp(v, hi, lo);
        }

        /// <summary>A part of a whole; 0 of a whole that is not above 0.</summary>
        static double Share(double part, double whole)
        {
            return whole > 0.0 ? part / whole : 0.0;
        }

        /// <summary>The square root of `x`; 0 of what is below 0.</summary>
        static double Root(double x)
        {
            double kept = x > 0.0 ? x : 0.0;
            return Math.Sqrt(kept);
        }

        /// <summary>A number without its sign.</summary>
        static double Absolute(double x)
        {
            return x < 0.0 ? -x : x;
        }

        /// <summary>Where the cells of a key begin, from 0 to 1.</summary>
        static double ChancePhase(uint key)
        {
            unchecked
            {
                return ToUnit(Scramble(key + Octave));
            }
        }

        /// <summary>Where cell `i` of a held level begins, from `i`: at most `jitter` either way.</summary>
        static double CellEdge(uint key, uint i, double jitter)
        {
            uint bits = Draw(key, i);
            double drawn = jitter * (2.0 * ToUnit(bits) - 1.0);
            double steady = (bits >> 31) != 0u ? jitter : -jitter;
            return (i & 1u) != 0u ? steady : drawn;
        }

        /// <summary>A level from 0 to 1 that is drawn again after random times between `a` and `b`
        /// seconds: `rate` is 2 / (a + b), `jitter` is (b - a) / (2 (a + b)).</summary>
        static double HeldLevel(double t, uint key, double rate, double jitter)
        {
            unchecked
            {
                double x = t * rate + ChancePhase(key);
                double n = RoundDown(x + 0.5);
                uint i = CellIndex(n);
                uint early = x - n < CellEdge(key, i, jitter) ? 1u : 0u;
                return ToUnit(Draw(key ^ Levels, i - early));
            }
        }

        /// <summary>A level from 0 to 1 that is drawn again `rate` times a second: `held_level`
        /// without jitter.</summary>
        static double SteadyLevel(double t, uint key, double rate)
        {
            unchecked
            {
                uint i = CellIndex(RoundDown(t * rate + ChancePhase(key)));
                return ToUnit(Draw(key ^ Levels, i));
            }
        }

        /// <summary>Soft start and end, from 0 to 1.</summary>
        static double EaseSmooth(double u)
        {
            double s = u * u * (3.0 - 2.0 * u);
            return s > 1.0 ? 1.0 : s;
        }

        /// <summary>Places from 0 to 1 drawn apart at both ends, so that what starts or ends like a
        /// root goes on evenly.</summary>
        static double SpreadEnds(double u)
        {
            bool before = u < 0.5;
            double side = before ? u : 1.0 - u;
            double v = 0.5 * Root(2.0 * side);
            return before ? v : 1.0 - v;
        }

        /// <summary>An easing at `u`, 0 to 1, that is kept as polynomials of the fifth degree: six
        /// numbers for each of `pieces` of one length, the highest power first.</summary>
        static double EaseBaked(double u, double[] table, uint pieces)
        {
            double x = u * (double)pieces;
            uint cell = (uint)x;
            uint piece = cell < pieces ? cell : pieces - 1;
            double f = x - (double)piece;
            uint at = 6 * piece;
            double s = table[at];
            s = s * f + table[at + 1];
            s = s * f + table[at + 2];
            s = s * f + table[at + 3];
            s = s * f + table[at + 4];
            return s * f + table[at + 5];
        }

        /// <summary>Position of `t` in a turn of `period` seconds that starts again and again.</summary>
        static double WrapTime(double t, double period)
        {
            double x = t - RoundDown(t / period) * period;
            double under = x >= period ? x - period : x;
            return x < 0.0 ? x + period : under;
        }

        /// <summary>Position of `t` in a turn of `period` seconds that plays there and back.</summary>
        static double FoldTime(double t, double period)
        {
            double x = WrapTime(t, 2.0 * period);
            return x > period ? 2.0 * period - x : x;
        }

        /// <summary>A level from 0 to 1 that passes smoothly through draws at whole numbers `x`.</summary>
        static double Noise(double x, uint key)
        {
            unchecked
            {
                double n = RoundDown(x);
                double f = x - n;
                uint i = CellIndex(n);
                double eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
                double s = eased > 1.0 ? 1.0 : eased;
                double a = ToUnit(Draw(key, i));
                double b = ToUnit(Draw(key, i + 1u));
                return a + (b - a) * s;
            }
        }

        /// <summary>A level from 0 to 1 that drifts smoothly: `rate` draws a second, and for each
        /// octave after the first one of half the depth and twice the rate.</summary>
        static double DriftLevel(double t, uint key, double rate, uint octaves)
        {
            unchecked
            {
                double x = t * rate + ChancePhase(key);
                uint k = key;
                double sum = Noise(x, k);
                double total = 1.0;
                for (uint pass = 1; pass < octaves; ++pass)
                {
                    x = 2.0 * x + 0.37;
                    k += Octave;
                    sum = 2.0 * sum + Noise(x, k);
                    total = 2.0 * total + 1.0;
                }
                return sum / total;
            }
        }

        /// <summary>As `held_level`, but each level is reached softly over a `part` of its time.</summary>
        static double SoftLevel(double t, uint key, double rate, double jitter, double part)
        {
            unchecked
            {
                double x = t * rate + ChancePhase(key);
                double n = RoundDown(x + 0.5);
                uint nearest = CellIndex(n);
                double sinceNearest = x - n - CellEdge(key, nearest, jitter);
                uint i = sinceNearest >= 0.0 ? nearest : nearest - 1u;
                double edge = CellEdge(key, i, jitter);
                double passed = sinceNearest >= 0.0 ? sinceNearest : x - n + 1.0 - edge;
                double soft = part * (1.0 + CellEdge(key, i + 1u, jitter) - edge);
                double to = ToUnit(Draw(key ^ Levels, i));
                double from = ToUnit(Draw(key ^ Levels, i - 1u));
                double way = from + (to - from) * EaseSmooth(passed / soft);
                return passed >= soft ? to : way;
            }
        }

        /// <summary>When the `n`-th burst or pause of a turn ends, in seconds, by running sums of
        /// even draws.</summary>
        static double BurstEdge(uint n, double onLo, double onHi, double offLo, double offHi, double[] onSums,
            double[] offSums)
        {
            uint begun = (n + 1) / 2;
            uint ended = n / 2;
            double on = onLo * (double)begun + (onHi - onLo) * onSums[begun];
            return on + (offLo * (double)ended + (offHi - offLo) * offSums[ended]);
        }

        /// <summary>1 while a burst lasts, else 0. Bursts last `on_lo` to `on_hi` seconds, the
        /// pauses after them `off_lo` to `off_hi`; the running sums have an entry more than there
        /// are `pairs`.</summary>
        static double BurstLevel(double t, uint key, double onLo, double onHi, double offLo, double offHi,
            double[] onSums, double[] offSums, uint pairs)
        {
            unchecked
            {
                double whole = BurstEdge(2 * pairs, onLo, onHi, offLo, offHi, onSums, offSums);
                double x = t / whole + ChancePhase(key);
                double n = RoundDown(x);
                uint first = 2 * (Draw(key, CellIndex(n)) % pairs);
                double passed = (x - n) * whole + BurstEdge(first, onLo, onHi, offLo, offHi, onSums, offSums);
                double u = passed >= whole ? passed - whole : passed;
                uint last = 0;
                uint step = pairs;
                while (step > 0)
                {
                    if (u >= BurstEdge(last + step, onLo, onHi, offLo, offHi, onSums, offSums)) last += step;
                    step = step / 2;
                }
                return last % 2 == 0 ? 1.0 : 0.0;
            }
        }

        /// <summary>The level, 0 to 1, at position `x` of an envelope with entries 0 to `last`:
        /// linear between positions (upper 24 bits) and levels in 1/255 (lower 8 bits); the ends go
        /// on.</summary>
        static double EnvelopeLevel(double x, uint[] envelope, uint last)
        {
            uint low = 0;
            uint high = last;
            while (high - low > 1)
            {
                uint middle = (low + high) / 2;
                if ((double)(envelope[middle] >> 8) <= x)
                {
                    low = middle;
                }
                else
                {
                    high = middle;
                }
            }
            double from = (double)(envelope[low] >> 8);
            double to = (double)(envelope[high] >> 8);
            double a = (double)(envelope[low] & 255u);
            double b = (double)(envelope[high] & 255u);
            return Lerp(a, b, Clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0;
        }

        /// <summary>The first of the rising positions 0 to `last` that lies after `x`, or never.</summary>
        static double NextPlace(double x, double[] places, uint last)
        {
            uint low = 0;
            uint high = last + 1;
            while (low < high)
            {
                uint middle = (low + high) / 2;
                if (places[middle] > x)
                {
                    high = middle;
                }
                else
                {
                    low = middle + 1;
                }
            }
            if (low <= last) return places[low];
            return Never;
        }

        /// <summary>One coordinate of a displacement within a ball of radius 1, from three numbers
        /// in -1..1 of which `a` is that coordinate's.</summary>
        static double InBall(double a, double b, double c)
        {
            double bb = b * b;
            double cc = c * c;
            return a * Math.Sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
        }

        /// <summary>One coordinate of a direction of length 1; `still` where there is no direction.</summary>
        static double Heading(double part, double x, double y, double z, double still)
        {
            double length = Math.Sqrt(x * x + y * y + z * z);
            return length > 1e-9 ? part / length : still;
        }

        /// <summary>The sine of `x` turns, to 4e-14.</summary>
        static double SineOfTurns(double x)
        {
            double turn = x - RoundDown(x + 0.5);
            double upper = turn > 0.25 ? 0.5 - turn : turn;
            double r = upper < -0.25 ? -0.5 - upper : upper;
            double q = r * r;
            double high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
            double low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
            return Clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0);
        }

        /// <summary>A sine wave from 0 to 1, lowest at whole turns `x`.</summary>
        static double SineLevel(double x)
        {
            return 0.5 + 0.5 * SineOfTurns(x - 0.25);
        }

        /// <summary>A triangle wave from 0 to 1, lowest at whole turns `x`.</summary>
        static double TriangleLevel(double x)
        {
            double r = x - RoundDown(x);
            return r < 0.5 ? 2.0 * r : 2.0 - 2.0 * r;
        }

        /// <summary>Whole days in a number of hours from midnight on; below 0 before it.</summary>
        static double DaysOf(double hours)
        {
            return RoundDown(hours / 24.0);
        }

        /// <summary>Hour of the day, 0 to 24 (excluded), after a number of hours from midnight on.</summary>
        static double HourOf(double hours)
        {
            return Clamp(hours - 24.0 * DaysOf(hours), 0.0, LastHour);
        }

        /// <summary>What is left of a fall of `fall` hours that began `late` hours ago: 1 to 0.</summary>
        static double HoursLeft(double late, double fall)
        {
            return late < fall ? 1.0 - late / fall : 0.0;
        }

        /// <summary>0 outside and 1 inside of a span of hours: it opens from `start` on, for `rise`
        /// hours, and closes from `end` on, for `fall` hours.</summary>
        static double HoursLevel(double hour, double start, double rise, double end, double fall)
        {
            double passed = HourOf(hour - start);
            double open = HourOf(end - start);
            if (passed >= rise) return passed < open ? 1.0 : HoursLeft(passed - open, fall);
            double risen = passed / rise;
            if (passed >= open)
            {
                double lost = 1.0 - HoursLeft(passed - open, fall);
                return risen > lost ? risen - lost : 0.0;
            }
            double level = risen + HoursLeft(passed - open + 24.0, fall);
            return level < 1.0 ? level : 1.0;
        }

        /// <summary>The angle of the point (x, y) from the x axis toward the y axis, in degrees
        /// above -180 to 180; 0 at the origin.</summary>
        static double ArcTangent(double y, double x)
        {
            double ax = x < 0.0 ? -x : x;
            double ay = y < 0.0 ? -y : y;
            bool steep = ay > ax;
            double shorter = steep ? ax : ay;
            double longer = steep ? ay : ax;
            if (longer == 0.0) return 0.0;
            double ratio = shorter / longer;
            bool steeper = ratio > 0.414213562373095;
            double z = steeper ? (ratio - 1.0) / (ratio + 1.0) : ratio;
            double u = z * z;
            double a = 2.878903358695536 + u * -1.4504271731546372;
            double b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
            double c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
            double d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
            double p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
            double part = steeper ? 45.0 + z * p : z * p;
            double half = steep ? 90.0 - part : part;
            double angle = x < 0.0 ? 180.0 - half : half;
            return y < 0.0 ? -angle : angle;
        }

        /// <summary>The angle whose sine is `x`, -90 to 90 degrees; `x` is limited to -1..1.</summary>
        static double ArcSine(double x)
        {
            double kept = Clamp(x, -1.0, 1.0);
            return ArcTangent(kept, Math.Sqrt((1.0 - kept) * (1.0 + kept)));
        }

        /// <summary>A compass direction, 0 (north) to 360 degrees over east.</summary>
        static double Compass(double east, double north)
        {
            double angle = ArcTangent(east, north);
            return angle < 0.0 ? angle + 360.0 : angle;
        }

        /// <summary>Turns of the sun on its way through the year, from the spring equinox: `days`
        /// after noon of 1 January 2000 in UT.</summary>
        static double SunWay(double days)
        {
            double anomaly = 0.9931333333333333 + days * 0.002737778611111111;
            double mean = 0.7790555555555555 + days * 0.0027379093333333333;
            double ahead = SineOfTurns(anomaly) * 0.005319444444444444;
            return mean + ahead + SineOfTurns(anomaly + anomaly) * 5.555555555555556e-5;
        }

        /// <summary>Tilt of the earth's axis in turns, `days` as for `sun_way`.</summary>
        static double AxisTilt(double days)
        {
            return 0.06510833333333332 - days * 1.111111111e-9;
        }

        /// <summary>How far the sky has turned over a longitude, in turns, `days` as for `sun_way`.</summary>
        static double SkyTurn(double days, double longitude)
        {
            return 0.77905727325 + days * 1.002737909350795 + longitude / 360.0;
        }

        /// <summary>East (0), up (1) or south (2) of the direction to the sun, or to what runs
        /// `ahead` turns before it (Michalsky 1988).</summary>
        static double SkyPart(double part, double days, double ahead, double latitude, double longitude)
        {
            double way = SunWay(days) + ahead;
            double tilt = AxisTilt(days);
            double across = SineOfTurns(way);
            double x = SineOfTurns(way + 0.25);
            double y = SineOfTurns(tilt + 0.25) * across;
            double z = SineOfTurns(tilt) * across;
            double sky = SkyTurn(days, longitude);
            double sine = SineOfTurns(sky);
            double cosine = SineOfTurns(sky + 0.25);
            if (part == 0.0) return Clamp(y * cosine - x * sine, -1.0, 1.0);
            double meridian = x * cosine + y * sine;
            double low = SineOfTurns(latitude / 360.0);
            double high = SineOfTurns(latitude / 360.0 + 0.25);
            double toward = part == 1.0 ? low * z + high * meridian : low * meridian - high * z;
            return Clamp(toward, -1.0, 1.0);
        }

        /// <summary>The hour at which the sun passes a height, given by its sine: rising (`side`
        /// -1), highest (0), setting (1).</summary>
        static double SunHour(double side, double days, double latitude, double longitude, double sine)
        {
            double low = SineOfTurns(latitude / 360.0);
            double high = SineOfTurns(latitude / 360.0 + 0.25);
            double hour = 12.0;
            double aim = 0.0;
            for (uint pass = 0; pass < 4; ++pass)
            {
                double now = days + hour / 24.0;
                double way = SunWay(now);
                double tilt = AxisTilt(now);
                double across = SineOfTurns(way);
                double x = SineOfTurns(way + 0.25);
                double y = SineOfTurns(tilt + 0.25) * across;
                double z = SineOfTurns(tilt) * across;
                double past = SkyTurn(now, longitude) - ArcTangent(y, x) / 360.0;
                double left = aim - past;
                hour += 24.0 * (left - RoundDown(left + 0.5));
                double flat = Math.Sqrt((1.0 - z) * (1.0 + z));
                double part = Clamp((sine - low * z) / Max(high * flat, 1e-12), -1.0, 1.0);
                aim = side * (0.25 - ArcSine(part) / 360.0);
            }
            return HourOf(hour);
        }

        /// <summary>Whether the sun stays below (-1) or above (1) a height all day, given by its
        /// sine; 0 where it crosses it, 0.5 (either sign) where it only rises or only sets.</summary>
        static double SunStays(double days, double latitude, double longitude, double sine)
        {
            double noon = SunHour(0.0, days, latitude, longitude, sine);
            double low = SineOfTurns(latitude / 360.0);
            double high = SineOfTurns(latitude / 360.0 + 0.25);
            double stays = 0.0;
            double side = -1.0;
            while (side < 2.0)
            {
                double hour = SunHour(side, days, latitude, longitude, sine);
                double after = HourOf(side * (hour - noon));
                double apart = after > 18.0 ? after - 24.0 : after;
                double now = days + (noon + side * apart) / 24.0;
                double z = SineOfTurns(AxisTilt(now)) * SineOfTurns(SunWay(now));
                double flat = Math.Sqrt((1.0 - z) * (1.0 + z));
                double part = (sine - low * z) / Max(high * flat, 1e-12);
                if (part > 0.9999)
                {
                    stays -= 1.0;
                }
                else if (part < -0.9999)
                {
                    stays += 1.0;
                }
                side += 2.0;
            }
            return stays * 0.5;
        }

        /// <summary>2 to the power of a number from -1020 to 1020, to 2e-14 of it.</summary>
        static double TwoTo(double x)
        {
            double whole = RoundDown(x + 0.5);
            double f = x - whole;
            double p = 1.021147686687256e-7;
            p = p * f + 1.325964614231444e-6;
            p = p * f + 1.5252641585726547e-5;
            p = p * f + 0.000154034337467768;
            p = p * f + 0.0013333558259554714;
            p = p * f + 0.009618129193941272;
            p = p * f + 0.05550410866424362;
            p = p * f + 0.24022650695640305;
            p = p * f + 0.6931471805599538;
            p = p * f + 1.0000000000000135;
            uint left = (uint)Absolute(whole);
            double factor = whole < 0.0 ? 0.5 : 2.0;
            while (left > 0)
            {
                if (left % 2 == 1) p *= factor;
                factor *= factor;
                left = left / 2;
            }
            return p;
        }

        /// <summary>Exponential decay: e to the power of `-x`, to 1e-13 of it; 1 below 0, 0 from
        /// 700 on.</summary>
        static double Decay(double x)
        {
            if (double.IsNaN(x) || x <= 0.0) return 1.0;
            if (x >= 700.0) return 0.0;
            double p = TwoTo(-x * 1.4426950408889634);
            return p < 1.0 ? p : 1.0;
        }

        /// <summary>The first multiple of 1/120 s after a moment.</summary>
        static double NextLook(double t)
        {
            double n = RoundDown(t * Looks) + 1.0;
            double look = n / Looks;
            return look > t ? look : (n + 1.0) / Looks;
        }

        /// <summary>The cube root of a number that is not below 0, to 4e-16 of it; 0 for what is
        /// all but 0.</summary>
        static double CubeRoot(double x)
        {
            if (x < Smallest) return 0.0;
            double part = x;
            double scale = 1.0;
            while (part >= 1.0)
            {
                part *= 0.125;
                scale *= 2.0;
            }
            while (part < 0.125)
            {
                part *= 8.0;
                scale *= 0.5;
            }
            double y = 0.3812513196434336 + part * (1.0723022680799823 - 0.46946113360511893 * part);
            for (uint pass = 0; pass < 2; ++pass)
            {
                double c = y * y * y;
                y = y * (c + 2.0 * part) / (2.0 * c + part);
            }
            return y * scale;
        }

        /// <summary>Root of the long cones' response to linear light, as in OKLab.</summary>
        static double ConeL(double r, double g, double b)
        {
            return CubeRoot(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
        }

        /// <summary>Root of the middle cones' response to linear light, as in OKLab.</summary>
        static double ConeM(double r, double g, double b)
        {
            return CubeRoot(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
        }

        /// <summary>Root of the short cones' response to linear light, as in OKLab.</summary>
        static double ConeS(double r, double g, double b)
        {
            return CubeRoot(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
        }

        /// <summary>Linear red, not below 0, from the roots of the cones' responses.</summary>
        static double LightR(double l, double m, double s)
        {
            double v = 4.0767416621 * (l * l * l) - 3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
            return v > 0.0 ? v : 0.0;
        }

        /// <summary>Linear green, not below 0, from the roots of the cones' responses.</summary>
        static double LightG(double l, double m, double s)
        {
            double v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) - 0.3413193965 * (s * s * s);
            return v > 0.0 ? v : 0.0;
        }

        /// <summary>Linear blue, not below 0, from the roots of the cones' responses.</summary>
        static double LightB(double l, double m, double s)
        {
            double v = -0.0041960863 * (l * l * l) - 0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
            return v > 0.0 ? v : 0.0;
        }

        /// <summary>On the way from one level to another: softly for `over` seconds since a moment,
        /// then there to stay.</summary>
        static double Faded(double from, double to, double since, double over, double now)
        {
            if (now >= since + over) return to;
            return Lerp(from, to, EaseSmooth(Clamp((now - since) / over, 0.0, 1.0)));
        }

        /// <summary>A moment, limited to 1e9 s either way; 0 for what is not a number.</summary>
        static double CleanMoment(double t)
        {
            if (double.IsNaN(t) || (t >= -Smallest && t <= Smallest)) return 0.0;
            return Clamp(t, -LastMoment, LastMoment);
        }

        /// <summary>The value of an input, limited to its range; `fallback` for what is not a
        /// finite number.</summary>
        static double CleanInput(double v, double lo, double hi, double fallback)
        {
            if (!IsFinite(v)) return fallback;
            double kept = v >= -Smallest && v <= Smallest ? 0.0 : v;
            return Clamp(kept, lo, hi);
        }

        /// <summary>An index that is at most the last.</summary>
        static uint AtMost(uint index, uint last)
        {
            return index < last ? index : last;
        }

        /// <summary>Single precision without negative zero and subnormals.</summary>
        static float ToSingle(double v)
        {
            return (float)(v < Smallest && v > -Smallest ? 0.0 : v);
        }

        /// <summary>The n-th value of a saved field.</summary>
        double SavedValue(uint field, uint n)
        {
            switch (field)
            {
                case 0: return Now;
                case 1: return (double)Seed;
                case 2: return HourThen;
                case 3: return DaysThen;
                case 4: return ClockSince;
                case 5: return ClockRate;
                case 6: return (double)OptionKeys[0 + Weather];
                case 7: return WeatherSince;
                case 8: return WeatherFrom.At(0);
                case 9: return WeatherFrom.At(1);
                case 10: return Mist;
                case 11: return Swell;
                case 12: return Season;
                case 13: return Haul;
                case 14: return RocketPlaceX;
                case 15: return RocketPlaceY;
                case 16: return RocketPlaceZ;
                case 17: return RocketTintR;
                case 18: return RocketTintG;
                case 19: return RocketTintB;
                case 20: return HornAt;
                case 21: return HornSince;
                case 22: return HornPlays ? 1.0 : 0.0;
                case 23: return HornChanged;
                case 24: return RatchetAt;
                case 25: return RatchetSince;
                case 26: return RatchetRate;
                case 27: return PowerOn ? 1.0 : 0.0;
                case 28: return PowerSince;
                case 29: return PowerFrom;
                case 30: return (double)OptionKeys[2 + (uint)WarningMode];
                case 31: return WarningEntered;
                case 32: return WarningWay;
                case 33: return WarningFromWatch;
                case 34: return WarningFromAlarm;
                case 35: return WarningRule1Seen ? 1.0 : 0.0;
                case 36: return WarningRule1Since;
                case 37: return BlareHornFollow0From;
                case 38: return BlastPassed;
                case 39: return NoticeMoments.At(n);
                case 40: return NoticePacked.At(n);
                case 41: return NoticePositions.At(3u * n + 0u);
                case 42: return NoticePositions.At(3u * n + 1u);
                case 43: return NoticePositions.At(3u * n + 2u);
                case 44: return NoticeFirst;
                case 45: return NoticeCount;
                case 46: return NoticeDropped;
                case 47: return Notice0Sent;
                case 48: return NoticeValueLoud.At(n);
                case 49: return Notice0Text;
                case 50: return FogLampFaultLast.At(n);
                case 51: return FogLampFaultCount.At(n);
                case 52: return Notice1Sent.At(n);
                case 53: return NoticeValueWithin.At(n);
                case 54: return Notice1Text.At(n);
                case 55: return QuayCock.At(n);
                case 56: return BoardLoudness.At(n);
                case 57: return DockingStarted;
                case 58: return GateOpensLast;
                case 59: return StarShellBorn.At(n);
                case 60: return StarShellLength.At(n);
                case 61: return StarShellPlace.At(3u * n + 0u);
                case 62: return StarShellPlace.At(3u * n + 1u);
                case 63: return StarShellPlace.At(3u * n + 2u);
                case 64: return StarShellTint.At(3u * n + 0u);
                case 65: return StarShellTint.At(3u * n + 1u);
                case 66: return StarShellTint.At(3u * n + 2u);
                default: return StarShellCount;
            }
        }

        /// <summary>Restores the n-th value of a saved field.</summary>
        void TakeSaved(uint field, uint n, double value_2)
        {
            unchecked
            {
                switch (field)
                {
                    case 0: Now = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 1: Seed = CellIndex(value_2); break;
                    case 2: HourThen = CleanSaved(value_2, 0.0, 23.999999999999996,
                        17.666666666666668); break;
                    case 3: DaysThen = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 4: ClockSince = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 5: ClockRate = CleanSaved(value_2, -1e6, 1e6, 1.0); break;
                    case 6: Weather = OptionOf(CellIndex(value_2), 0, 2u); break;
                    case 7: WeatherSince = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 8: WeatherFrom.Put(0, CleanSaved(value_2, 0.0, 1.0, 1.0)); break;
                    case 9: WeatherFrom.Put(1, CleanSaved(value_2, 0.0, 1.0, 0.0)); break;
                    case 10: Mist = CleanSaved(value_2, 0.0, 1.0, 0.3); break;
                    case 11: Swell = CleanSaved(value_2, 0.0, 1.0, 0.2); break;
                    case 12: Season = CleanSaved(value_2, 1.0, 366.0, 324.0); break;
                    case 13: Haul = CleanSaved(value_2, 0.0, 2.0, 1.0); break;
                    case 14: RocketPlaceX = CleanSaved(value_2, -1e6, 1e6, 30.0); break;
                    case 15: RocketPlaceY = CleanSaved(value_2, -1e6, 1e6, 40.0); break;
                    case 16: RocketPlaceZ = CleanSaved(value_2, -1e6, 1e6, -60.0); break;
                    case 17: RocketTintR = CleanSaved(value_2, 0.0, 1.0, 1.0); break;
                    case 18: RocketTintG = CleanSaved(value_2, 0.0, 1.0, 1.0); break;
                    case 19: RocketTintB = CleanSaved(value_2, 0.0, 1.0, 1.0); break;
                    case 20: HornAt = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 21: HornSince = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 22: HornPlays = value_2 != 0.0; break;
                    case 23: HornChanged = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 24: RatchetAt = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 25: RatchetSince = CleanSaved(value_2, -1e9, 1e9, 0.0); break;
                    case 26: RatchetRate = CleanSaved(value_2, -1.0, 16.0, -1.0); break;
                    case 27: PowerOn = value_2 != 0.0; break;
                    case 28: PowerSince = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 29: PowerFrom = CleanSaved(value_2, 0.0, 1.0, 1.0); break;
                    case 30: WarningMode = (double)OptionOf(CellIndex(value_2), 2, 3u); break;
                    case 31: WarningEntered = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 32: WarningWay = CleanSaved(value_2, 0.0, 2.0, 0.0); break;
                    case 33: WarningFromWatch = CleanSaved(value_2, 0.0, 1.0, 0.0); break;
                    case 34: WarningFromAlarm = CleanSaved(value_2, 0.0, 1.0, 0.0); break;
                    case 35: WarningRule1Seen = value_2 != 0.0; break;
                    case 36: WarningRule1Since = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 37: BlareHornFollow0From = CleanSaved(value_2, 0.0, 1.0, 0.0); break;
                    case 38: BlastPassed = CleanSaved(value_2, -1000000001.0, 2e9, -1e-9); break;
                    case 39: NoticeMoments.Put(n, CleanSaved(value_2, -1e9, 1e9, 0.0)); break;
                    case 40: NoticePacked.Put(n, CleanSaved(value_2, 0.0, 1e12, 0.0)); break;
                    case 41: NoticePositions.Put(3u * n + 0u, CleanSaved(value_2, -3.4028234663852886e38,
                        3.4028234663852886e38, 0.0)); break;
                    case 42: NoticePositions.Put(3u * n + 1u, CleanSaved(value_2, -3.4028234663852886e38,
                        3.4028234663852886e38, 0.0)); break;
                    case 43: NoticePositions.Put(3u * n + 2u, CleanSaved(value_2, -3.4028234663852886e38,
                        3.4028234663852886e38, 0.0)); break;
                    case 44: NoticeFirst = CleanSaved(value_2, 0.0, 31.0, 0.0); break;
                    case 45: NoticeCount = CleanSaved(value_2, 0.0, 32.0, 0.0); break;
                    case 46: NoticeDropped = CleanSaved(value_2, 0.0, 4e9, 0.0); break;
                    case 47: Notice0Sent = CleanSaved(value_2, 0.0, 4e9, 0.0); break;
                    case 48: NoticeValueLoud.Put(n, CleanSaved(value_2, -3.4028234663852886e38,
                        3.4028234663852886e38, 0.0)); break;
                    case 49: Notice0Text = CleanSaved(value_2, -1.0, 1.0, -1.0); break;
                    case 50: FogLampFaultLast.Put(n, CleanSaved(value_2, -2e9, 1e9, -2e9)); break;
                    case 51: FogLampFaultCount.Put(n, CleanSaved(value_2, 0.0, 4e9, 0.0)); break;
                    case 52: Notice1Sent.Put(n, CleanSaved(value_2, 0.0, 4e9, 0.0)); break;
                    case 53: NoticeValueWithin.Put(n, CleanSaved(value_2, -3.4028234663852886e38,
                        3.4028234663852886e38, 0.0)); break;
                    case 54: Notice1Text.Put(n, CleanSaved(value_2, -1.0, 2.0, -1.0)); break;
                    case 55: QuayCock.Put(n, CleanSaved(value_2, 0.0, 1.0, 1.0)); break;
                    case 56: BoardLoudness.Put(n, CleanSaved(value_2, 0.0, 2.0, 0.6)); break;
                    case 57: DockingStarted = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 58: GateOpensLast = CleanSaved(value_2, -2e9, 1e9, -2e9); break;
                    case 59: StarShellBorn.Put(n, CleanSaved(value_2, -2e9, 1e9, -2e9)); break;
                    case 60: StarShellLength.Put(n, CleanSaved(value_2, 5.0, 7.0, 5.0)); break;
                    case 61: StarShellPlace.Put(3u * n + 0u, CleanSaved(value_2, -1e6, 1e6, 30.0)); break;
                    case 62: StarShellPlace.Put(3u * n + 1u, CleanSaved(value_2, -1e6, 1e6, 40.0)); break;
                    case 63: StarShellPlace.Put(3u * n + 2u, CleanSaved(value_2, -1e6, 1e6, -60.0)); break;
                    case 64: StarShellTint.Put(3u * n + 0u, CleanSaved(value_2, 0.0, 1.0, 1.0)); break;
                    case 65: StarShellTint.Put(3u * n + 1u, CleanSaved(value_2, 0.0, 1.0, 1.0)); break;
                    case 66: StarShellTint.Put(3u * n + 2u, CleanSaved(value_2, 0.0, 1.0, 1.0)); break;
                    default: StarShellCount = CleanSaved(value_2, 0.0, 4e9, 0.0); break;
                }
            }
        }

        /// <summary>Restores each saved value from itself, for the self-test: nothing may change.</summary>
        void Resave()
        {
            for (uint field = 0u; field < 68u; ++field)
            {
                uint count = SaveHeads[field] & 0x00ffffffu;
                for (uint n = 0u; n < count; ++n)
                {
                    TakeSaved(field, n, SavedValue(field, n));
                }
            }
        }

        /// <summary>Writes a save of the run.</summary>
        void WriteSave(byte[] bytes)
        {
            unchecked
            {
                PutWord(bytes, 0, 0x544c4143u);
                PutWord(bytes, 4, 1u);
                PutWord(bytes, 8, 0x39f896a0u);
                uint at = 16;
                for (uint field = 0u; field < 68u; ++field)
                {
                    uint head = SaveHeads[field];
                    PutWord(bytes, at, SaveKeys[field]);
                    PutWord(bytes, at + 4, head);
                    at += 8;
                    uint count = head & 0x00ffffffu;
                    uint each = 4;
                    if ((head >> 24) == 1u) each = 8;
                    for (uint n = 0u; n < count; ++n)
                    {
                        uint place = at + each * n;
                        double value_2 = SavedValue(field, n);
                        if (each == 8)
                        {
                            PutWord(bytes, place, LowBits(value_2));
                            PutWord(bytes, place + 4, HighBits(value_2));
                        }
                        else
                        {
                            PutWord(bytes, place, CellIndex(value_2));
                        }
                    }
                    at += each * count;
                }
                PutWord(bytes, 12, SaveSum(bytes, at));
            }
        }

        /// <summary>Restarts the run and restores all fields that the save has. Returns the number
        /// of fields in the save that this file lacks or has fewer of.</summary>
        uint ReadSave(byte[] bytes, uint size)
        {
            unchecked
            {
                this = Start(41u);
                uint dropped = 0u;
                uint at = 16;
                while (at < size)
                {
                    uint key = WordAt(bytes, at);
                    uint head = WordAt(bytes, at + 4);
                    uint each = 4;
                    uint bits = head >> 24;
                    if (bits == 1u) each = 8;
                    uint count = head & 0x00ffffffu;
                    at += 8;
                    uint kept = 0u;
                    for (uint field = 0u; field < 68u; ++field)
                    {
                        if (SaveKeys[field] == key && (SaveHeads[field] >> 24) == bits)
                        {
                            uint own = SaveHeads[field] & 0x00ffffffu;
                            kept = own < count ? own : count;
                            for (uint n = 0u; n < kept; ++n)
                            {
                                uint place = at + each * n;
                                uint low = WordAt(bytes, place);
                                double value_2 = (double)low;
                                if (each == 8) value_2 = FromBits(WordAt(bytes, place + 4), low);
                                TakeSaved(field, n, value_2);
                            }
                            break;
                        }
                    }
                    for (uint n_2 = 0u; n_2 < 12u; ++n_2)
                    {
                        if (SaveUnused[n_2] == key) kept = count;
                    }
                    if (kept < count) dropped += 1u;
                    at += each * count;
                }
                return dropped;
            }
        }

        // A word of bytes, little endian on every machine.
        static uint WordAt(byte[] bytes, uint at)
        {
            return bytes[at] | (uint)bytes[at + 1] << 8 | (uint)bytes[at + 2] << 16 | (uint)bytes[at + 3] << 24;
        }

        static void PutWord(byte[] bytes, uint at, uint word)
        {
            for (int n = 0; n < 4; ++n) bytes[at + n] = unchecked((byte)(word >> 8 * n));
        }

        /// <summary>A count of a run as a whole number of at most so many, also of a run that was
        /// never started.</summary>
        static uint Counted(double count, uint most)
        {
            unchecked
            {
                if (count > 0.0 && count < (double)most) return CellIndex(RoundDown(count));
                return count > 0.0 ? most : 0u;
            }
        }

        /// <summary>The index of the option with this key; 0 if there is none.</summary>
        static uint OptionOf(uint key, uint first, uint count)
        {
            for (uint n = 0u; n < count; ++n)
            {
                if (OptionKeys[first + n] == key) return n;
            }
            return 0u;
        }

        /// <summary>Clamps a saved number to its bounds; the default if it is not finite.</summary>
        static double CleanSaved(double value_2, double lo, double hi, double first)
        {
            return IsFinite(value_2) ? Clamp(value_2, lo, hi) : first;
        }

        /// <summary>A checksum of all words of a save after its header.</summary>
        static uint SaveSum(byte[] bytes, uint size)
        {
            uint sum = 0x544c4143u;
            uint at = 16;
            while (at < size)
            {
                sum = Scramble(sum ^ WordAt(bytes, at));
                at += 4;
            }
            return sum;
        }

        /// <summary>Whether the bytes are a complete save in this version of the format, with the
        /// right checksum.</summary>
        static bool IsSave(byte[] bytes, uint size)
        {
            if (size < 16 || size % 4 != 0) return false;
            if (WordAt(bytes, 0) != 0x544c4143u || WordAt(bytes, 4) != 1u) return false;
            uint at = 16;
            while (at < size)
            {
                if (size - at < 8) return false;
                uint head = WordAt(bytes, at + 4);
                uint each = 4;
                if ((head >> 24) == 1u) each = 8;
                uint count = head & 0x00ffffffu;
                at += 8;
                if (count > (size - at) / each) return false;
                at += each * count;
            }
            return WordAt(bytes, 12) == SaveSum(bytes, size);
        }

        /// <summary>Adds a value to a checksum.</summary>
        static uint Checksum(uint sum, double value_2)
        {
            return Scramble(sum ^ HighBits(value_2) ^ LowBits(value_2));
        }

        /// <summary>Seeds of the self-test.</summary>
        static readonly uint[] TestSeeds =
        {
            41u, 42u
        };

        /// <summary>Moments at which it reads all lights.</summary>
        static readonly double[] TestMoments =
        {
            0.0, 0.056, 0.096, 0.111, 0.148, 0.243, 0.286, 0.322, 0.37, 0.434, 0.486, 0.511, 0.518, 0.551,
            0.559, 0.591, 0.634, 0.656, 0.696, 0.721, 0.851, 1.174, 1.207, 1.272, 1.313, 1.348, 1.378, 1.443,
            1.567, 1.636, 1.929, 1.994, 2.034, 2.091, 2.099, 2.164, 2.368, 2.596, 2.65, 2.685, 2.715, 2.755,
            2.82, 2.885, 3.015, 3.1, 3.228, 3.259, 3.371, 3.437, 3.542, 3.552, 3.607, 4.093, 4.149, 4.158,
            4.263, 4.284, 4.328, 4.814, 4.879, 4.944, 4.984, 5.032, 5.05, 5.536, 5.601, 5.621, 5.666, 5.706,
            5.771, 6.257, 6.322, 6.387, 6.427, 6.492, 6.978, 7.043, 7.108, 7.149, 7.214, 7.4, 7.765, 7.83,
            7.87, 7.893, 7.935, 8.03, 9.752, 10.483, 11.215, 11.667, 12.399, 15.11, 18.599, 19.33, 19.783,
            20.514, 21.246, 21.48, 26.714, 27.446, 27.898, 28.63, 29.361, 34.829, 35.561, 36.013, 36.745,
            37.477, 42.944, 43.676, 44.128, 44.86, 45.592, 51.06, 51.792, 52.976, 53.707, 57.117, 59.175,
            59.907, 61.091, 61.823, 61.995, 67.29, 68.022, 69.206, 69.938, 75.406, 76.137, 76.869, 77.321,
            78.053, 83.521, 84.253, 84.984, 85.437, 86.168, 111.219, 116.097, 165.321, 170.199, 219.423,
            224.301, 273.525, 278.403, 283.282, 327.627, 332.505, 337.384, 381.729, 386.607, 391.486,
            435.831, 440.709, 445.587, 494.811, 499.689, 548.913, 553.791
        };

        /// <summary>Seconds that it waits after what it does.</summary>
        static readonly double[] TestWaits =
        {
            0.001, 0.091, 0.37, 1.66, 6.262, 0.062, 0.248, 0.961, 4.444, 0.028, 0.19, 0.696, 2.929, 0.005,
            0.111, 0.434, 2.091, 8.03, 0.074, 0.286, 1.348, 5.621, 0.043, 0.217, 0.83, 3.32, 0.017, 0.141,
            0.559, 2.49, 24.24
        };

        /// <summary>Checksums of what the preview shows, one for each light and one for all
        /// notices.</summary>
        static readonly uint[] TestSums =
        {
            0x1579ae48u, 0x1603a01bu, 0x7813a0b0u, 0xb6b8e701u, 0xa67d0668u, 0x4ef6983au, 0xe9fb26cau,
            0xb2c13a15u, 0x96a8676eu, 0x76e8a1deu, 0x0e249beau, 0x7cf9e5a2u, 0x323641d6u, 0xca3d1610u,
            0x152bbe6du, 0xa421d9adu, 0x97e23bedu, 0xdd3363c0u, 0x2bdef6fdu, 0x1c21f736u, 0x603e3044u,
            0x94f30dc0u, 0x0e490e1au, 0x162951bbu, 0x39ae7bafu, 0x286d704eu, 0x53711b29u, 0x495d9198u
        };

        /// <summary>Adds a lamp of mast to a checksum.</summary>
        uint CheckMast(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadMast(index) };
            if (n % 2u == 1u) FillMast(index, lamps);
            Mast lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachInner);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.ConeInner);
            sum = Checksum(sum, (double)lamp.ConeOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            sum = Checksum(sum, (double)lamp.AimX);
            sum = Checksum(sum, (double)lamp.AimY);
            sum = Checksum(sum, (double)lamp.AimZ);
            return sum;
        }

        /// <summary>Adds a lamp of fog_lamp to a checksum.</summary>
        uint CheckFogLamp(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadFogLamp(index) };
            if (n % 2u == 1u) FillFogLamp(index, lamps);
            FogLamp lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of quay.glow to a checksum.</summary>
        uint CheckQuayGlow(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadQuayGlow(index) };
            if (n % 2u == 1u) FillQuayGlow(index, lamps);
            QuayGlow lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of quay.core to a checksum.</summary>
        uint CheckQuayCore(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadQuayCore(index) };
            if (n % 2u == 1u) FillQuayCore(index, lamps);
            QuayCore lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            sum = Checksum(sum, (double)lamp.OffsetX);
            sum = Checksum(sum, (double)lamp.OffsetY);
            sum = Checksum(sum, (double)lamp.OffsetZ);
            return sum;
        }

        /// <summary>Adds a lamp of ticket_hatch to a checksum.</summary>
        uint CheckTicketHatch(uint sum)
        {
            TicketHatch lamp = ReadTicketHatch();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of pane to a checksum.</summary>
        uint CheckPane(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadPane(index) };
            if (n % 2u == 1u) FillPane(index, lamps);
            Pane lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            sum = Checksum(sum, (double)lamp.AimX);
            sum = Checksum(sum, (double)lamp.AimY);
            sum = Checksum(sum, (double)lamp.AimZ);
            return sum;
        }

        /// <summary>Adds a lamp of weld to a checksum.</summary>
        uint CheckWeld(uint sum)
        {
            Weld lamp = ReadWeld();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachInner);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            sum = Checksum(sum, lamp.Shadows ? 1.0 : 0.0);
            return sum;
        }

        /// <summary>Adds a lamp of bench_lamp to a checksum.</summary>
        uint CheckBenchLamp(uint sum)
        {
            BenchLamp lamp = ReadBenchLamp();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of horn_lamp to a checksum.</summary>
        uint CheckHornLamp(uint sum)
        {
            HornLamp lamp = ReadHornLamp();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of board.strip to a checksum.</summary>
        uint CheckBoardStrip(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadBoardStrip(index) };
            if (n % 2u == 1u) FillBoardStrip(index, lamps);
            BoardStrip lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of buoy_lamp to a checksum.</summary>
        uint CheckBuoyLamp(uint sum)
        {
            BuoyLamp lamp = ReadBuoyLamp();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of harbor_light to a checksum.</summary>
        uint CheckHarborLight(uint sum)
        {
            HarborLight lamp = ReadHarborLight();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of standby to a checksum.</summary>
        uint CheckStandby(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadStandby(index) };
            if (n % 2u == 1u) FillStandby(index, lamps);
            Standby lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of edge_lamp to a checksum.</summary>
        uint CheckEdgeLamp(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadEdgeLamp(index) };
            if (n % 2u == 1u) FillEdgeLamp(index, lamps);
            EdgeLamp lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of gangway to a checksum.</summary>
        uint CheckGangway(uint sum)
        {
            Gangway lamp = ReadGangway();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachInner);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of gate_lamp to a checksum.</summary>
        uint CheckGateLamp(uint sum)
        {
            GateLamp lamp = ReadGateLamp();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of warning_lamp to a checksum.</summary>
        uint CheckWarningLamp(uint sum)
        {
            WarningLamp lamp = ReadWarningLamp();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            return sum;
        }

        /// <summary>Adds a lamp of star_shell to a checksum.</summary>
        uint CheckStarShell(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadStarShell(index) };
            if (n % 2u == 1u) FillStarShell(index, lamps);
            StarShell lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.ReachOuter);
            sum = Checksum(sum, (double)lamp.PositionX);
            sum = Checksum(sum, (double)lamp.PositionY);
            sum = Checksum(sum, (double)lamp.PositionZ);
            sum = Checksum(sum, (double)lamp.OffsetX);
            sum = Checksum(sum, (double)lamp.OffsetY);
            sum = Checksum(sum, (double)lamp.OffsetZ);
            return sum;
        }

        /// <summary>Adds a lamp of sunlight to a checksum.</summary>
        uint CheckSunlight(uint sum)
        {
            Sunlight lamp = ReadSunlight();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.AimX);
            sum = Checksum(sum, (double)lamp.AimY);
            sum = Checksum(sum, (double)lamp.AimZ);
            sum = Checksum(sum, lamp.Shadows ? 1.0 : 0.0);
            return sum;
        }

        /// <summary>Adds a lamp of moonlight to a checksum.</summary>
        uint CheckMoonlight(uint sum)
        {
            Moonlight lamp = ReadMoonlight();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            sum = Checksum(sum, (double)lamp.AimX);
            sum = Checksum(sum, (double)lamp.AimY);
            sum = Checksum(sum, (double)lamp.AimZ);
            return sum;
        }

        /// <summary>Adds a lamp of deck to a checksum.</summary>
        uint CheckDeck(uint sum)
        {
            Deck lamp = ReadDeck();
            sum = Checksum(sum, (double)lamp.Intensity);
            sum = Checksum(sum, (double)lamp.ColorR);
            sum = Checksum(sum, (double)lamp.ColorG);
            sum = Checksum(sum, (double)lamp.ColorB);
            return sum;
        }

        /// <summary>Adds a lamp of sky_tint to a checksum.</summary>
        uint CheckSkyTint(uint sum)
        {
            SkyTint lamp = ReadSkyTint();
            sum = Checksum(sum, (double)lamp.ValueR);
            sum = Checksum(sum, (double)lamp.ValueG);
            sum = Checksum(sum, (double)lamp.ValueB);
            return sum;
        }

        /// <summary>Adds a lamp of haze_tint to a checksum.</summary>
        uint CheckHazeTint(uint sum)
        {
            HazeTint lamp = ReadHazeTint();
            sum = Checksum(sum, (double)lamp.ValueR);
            sum = Checksum(sum, (double)lamp.ValueG);
            sum = Checksum(sum, (double)lamp.ValueB);
            return sum;
        }

        /// <summary>Adds a lamp of fog to a checksum.</summary>
        uint CheckFog(uint sum)
        {
            Fog lamp = ReadFog();
            sum = Checksum(sum, (double)lamp.Value);
            return sum;
        }

        /// <summary>Adds a lamp of view_range to a checksum.</summary>
        uint CheckViewRange(uint sum)
        {
            ViewRange lamp = ReadViewRange();
            sum = Checksum(sum, (double)lamp.Value);
            return sum;
        }

        /// <summary>Adds a lamp of drumming to a checksum.</summary>
        uint CheckDrumming(uint sum)
        {
            Drumming lamp = ReadDrumming();
            sum = Checksum(sum, (double)lamp.Value);
            return sum;
        }

        /// <summary>Adds a lamp of stars to a checksum.</summary>
        uint CheckStars(uint n, uint index, uint sum)
        {
            var lamps = new[] { ReadStars(index) };
            if (n % 2u == 1u) FillStars(index, lamps);
            Stars lamp = lamps[0];
            sum = Checksum(sum, (double)lamp.Level);
            sum = Checksum(sum, (double)lamp.TintR);
            sum = Checksum(sum, (double)lamp.TintG);
            sum = Checksum(sum, (double)lamp.TintB);
            return sum;
        }

        /// <summary>Adds all notices that wait to a checksum.</summary>
        uint CheckNotices(uint sum)
        {
            Notice notice;
            while (TakeNotice(out notice))
            {
                sum = Checksum(sum, notice.Moment);
                sum = Checksum(sum, (double)notice.Lamp);
                sum = Checksum(sum, (double)notice.PositionX);
                sum = Checksum(sum, (double)notice.PositionY);
                sum = Checksum(sum, (double)notice.PositionZ);
                sum = Checksum(sum, (double)notice.Loud);
                sum = Checksum(sum, (double)notice.Within);
            }
            return sum;
        }

        /// <summary>Adds the values of the n-th reading, one lamp of each light, to the checksums.</summary>
        void Check(uint n, uint[] sums)
        {
            uint turn = n % 4u < 2u ? 0u : n / 4u;
            sums[0] = CheckMast(n, turn % 8u, sums[0]);
            sums[1] = CheckFogLamp(n, turn % 3u, sums[1]);
            sums[2] = CheckQuayGlow(n, turn % 12u, sums[2]);
            sums[3] = CheckQuayCore(n, turn % 12u, sums[3]);
            sums[4] = CheckTicketHatch(sums[4]);
            sums[5] = CheckPane(n, turn % 6u, sums[5]);
            sums[6] = CheckWeld(sums[6]);
            sums[7] = CheckBenchLamp(sums[7]);
            sums[8] = CheckHornLamp(sums[8]);
            sums[9] = CheckBoardStrip(n, turn % 3u, sums[9]);
            sums[10] = CheckBuoyLamp(sums[10]);
            sums[11] = CheckHarborLight(sums[11]);
            sums[12] = CheckStandby(n, turn % 4u, sums[12]);
            sums[13] = CheckEdgeLamp(n, turn % 16u, sums[13]);
            sums[14] = CheckGangway(sums[14]);
            sums[15] = CheckGateLamp(sums[15]);
            sums[16] = CheckWarningLamp(sums[16]);
            sums[17] = CheckStarShell(n, turn % 6u, sums[17]);
            sums[18] = CheckSunlight(sums[18]);
            sums[19] = CheckMoonlight(sums[19]);
            sums[20] = CheckDeck(sums[20]);
            sums[21] = CheckSkyTint(sums[21]);
            sums[22] = CheckHazeTint(sums[22]);
            sums[23] = CheckFog(sums[23]);
            sums[24] = CheckViewRange(sums[24]);
            sums[25] = CheckDrumming(sums[25]);
            sums[26] = CheckStars(n, turn % 400u, sums[26]);
            sums[27] = CheckNotices(sums[27]);
        }

        /// <summary>What the game does in the self-test; unit is a chance of 0 to 1.</summary>
        void Act(uint which, double unit)
        {
            unchecked
            {
                switch (which)
                {
                    case 0: FireFerryDocks(); break;
                    case 1: SetSwell(0.6); break;
                    case 2: SetSwell(0.9); break;
                    case 3: FireRocket(30.0, 40.0, -60.0, 1.0, 0.14412847, 0.07421357); break;
                    case 4: SetMist(0.7); break;
                    case 5: FireRocket(52.0, 46.0, -70.0, 1.0, 0.14412847, 0.07421357); break;
                    case 6: FirePowerCut(); break;
                    case 7: FirePowerBack(); break;
                    case 8: SetSwell(0.3); break;
                    case 9: FireAllClear(); break;
                    case 10: FireFerryDocks(); break;
                    case 11: FirePowerCut(); break;
                    case 12: FirePowerBack(); break;
                    case 13: FireAllClear(); break;
                    case 14: FireRocket(24.0 + 20.0 * unit, 39.5 + 3.0 * unit, -51.0 - 25.0 * unit, unit,
                        1.0 - 0.8 * unit, 0.1 + 0.5 * unit); break;
                    case 15: SetWeather(0u); break;
                    case 16: SetWeather(1u); break;
                    case 17: SetMist(-0.03 + 1.06 * unit); break;
                    case 18: SetSwell(-0.03 + 1.06 * unit); break;
                    case 19: SetSeason(-9.95 + 386.9 * unit); break;
                    case 20: SetHaul(-0.06 + 2.12 * unit); break;
                    case 21: SetQuayCock(CellIndex(RoundDown(unit * 12.0)), -0.03 + 1.06 * unit); break;
                    case 22: SetBoardLoudness(CellIndex(RoundDown(unit * 3.0)), -0.06 + 2.12 * unit); break;
                    case 23: SetClock(-1.0 + 26.0 * unit); break;
                    case 24: SetClock(double.NaN); break;
                    case 25: SetClock(-2e9); break;
                    case 26: SetClock(2e9); break;
                    case 27: DriveClock(24.0 * unit); break;
                    case 28: SetClockDays(366.0 * unit); break;
                    case 29: SetClockRate(-3.0 + 9.0 * unit); break;
                    case 30: SetClockRate(-200.0 + 800.0 * unit); break;
                    case 31: SetClockRate(1.0); break;
                    case 32: SetMist(0.0); break;
                    case 33: SetMist(0.151); break;
                    case 34: SetMist(0.261); break;
                    case 35: SetMist(0.332); break;
                    case 36: SetMist(0.398); break;
                    case 37: SetMist(0.502); break;
                    case 38: SetMist(0.612); break;
                    case 39: SetMist(0.747); break;
                    case 40: SetMist(0.896); break;
                    case 41: SetMist(0.637); break;
                    case 42: SetMist(-1.0); break;
                    case 43: SetSwell(0.149); break;
                    case 44: SetSwell(0.259); break;
                    case 45: SetSwell(0.331); break;
                    case 46: SetSwell(0.361); break;
                    case 47: SetSwell(0.498); break;
                    case 48: SetSwell(0.608); break;
                    case 49: SetSwell(0.703); break;
                    case 50: SetSwell(0.803); break;
                    case 51: SetSwell(0.337); break;
                    case 52: SetSwell(2.5); break;
                    case 53: SetSeason(1.104); break;
                    case 54: SetSeason(1.305); break;
                    case 55: SetSeason(1.843); break;
                    case 56: SetSeason(2.291); break;
                    case 57: SetSeason(3.012); break;
                    case 58: SetSeason(3.715); break;
                    case 59: SetSeason(7.968); break;
                    case 60: SetSeason(11.952); break;
                    case 61: SetSeason(16.064); break;
                    case 62: SetSeason(18.072); break;
                    case 63: SetSeason(24.096); break;
                    case 64: SetSeason(59.76); break;
                    case 65: SetSeason(550.0); break;
                    case 66: SetHaul(0.1); break;
                    case 67: SetHaul(0.201); break;
                    case 68: SetHaul(0.329); break;
                    case 69: SetHaul(0.359); break;
                    case 70: SetHaul(0.452); break;
                    case 71: SetHaul(0.602); break;
                    case 72: SetHaul(0.697); break;
                    case 73: SetHaul(0.797); break;
                    case 74: SetHaul(1.004); break;
                    case 75: SetHaul(1.205); break;
                    case 76: SetHaul(1.594); break;
                    case 77: SetHaul(1.992); break;
                    case 78: SetHaul(0.6535); break;
                    case 79: SetQuayCock(0u, 0.0); break;
                    case 80: SetQuayCock(0u, 0.199); break;
                    case 81: SetQuayCock(0u, 0.299); break;
                    case 82: SetQuayCock(0u, 0.335); break;
                    case 83: SetQuayCock(0u, 0.402); break;
                    case 84: SetQuayCock(0u, 0.598); break;
                    case 85: SetQuayCock(0u, 0.664); break;
                    case 86: SetQuayCock(0u, 0.753); break;
                    case 87: SetQuayCock(0u, 0.904); break;
                    case 88: SetQuayCock(0u, 0.937); break;
                    case 89: SetQuayCock(0u, double.NaN); break;
                    case 90: SetBoardLoudness(0u, 0.151); break;
                    case 91: SetBoardLoudness(0u, 0.261); break;
                    case 92: SetBoardLoudness(0u, 0.331); break;
                    case 93: SetBoardLoudness(0u, 0.398); break;
                    case 94: SetBoardLoudness(0u, 0.498); break;
                    case 95: SetBoardLoudness(0u, 0.612); break;
                    case 96: SetBoardLoudness(0u, 0.703); break;
                    case 97: SetBoardLoudness(0u, 0.896); break;
                    case 98: SetBoardLoudness(0u, 1.096); break;
                    case 99: SetBoardLoudness(0u, 1.305); break;
                    case 100: SetBoardLoudness(0u, 1.606); break;
                    case 101: SetBoardLoudness(0u, 0.337); break;
                    case 102: SetBoardLoudness(0u, 4.0); break;
                    case 103: SetClock(0.1); break;
                    case 104: SetClock(0.201); break;
                    case 105: SetClock(0.329); break;
                    case 106: SetClock(0.359); break;
                    case 107: SetClock(0.452); break;
                    case 108: SetClock(0.602); break;
                    case 109: SetClock(0.697); break;
                    case 110: SetClock(0.797); break;
                    case 111: SetClock(1.004); break;
                    case 112: SetClock(1.205); break;
                    case 113: SetClock(1.594); break;
                    case 114: SetClock(1.992); break;
                    case 115: SetClock(2.51); break;
                    case 116: SetClock(3.112); break;
                    case 117: SetClock(5.976); break;
                    case 118: SetClock(8.964); break;
                    case 119: SetClock(14.056); break;
                    case 120: SetClock(17.068); break;
                    default: SetClock(23.904); break;
                }
            }
        }

        /// <summary>Plays the self-test: how many checksums differ from those of the preview.</summary>
        uint Differences()
        {
            unchecked
            {
                var sums = new uint[28];
                for (uint round = 0u; round < 2u; ++round)
                {
                    uint seed = TestSeeds[round];
                    this = Start(seed);
                    for (uint n = 0u; n < 161u; ++n)
                    {
                        Advance(TestMoments[n]);
                        Resave();
                        Check(n, sums);
                    }
                    for (uint n_2 = 0u; n_2 < 97u; ++n_2)
                    {
                        SetClockDays(3.7 * (double)n_2);
                        SetClock(0.2473 * (double)n_2);
                        Check(n_2, sums);
                    }
                    this = Start(seed);
                    double moment = 0.0;
                    for (uint n_3 = 0u; n_3 < 666u; ++n_3)
                    {
                        uint step = (666u * round) + n_3;
                        uint drawn = Scramble(step + 0x5e1f7e57u) % 122u;
                        uint which = n_3 < 122u ? n_3 : drawn;
                        double unit = (double)(Scramble(step) >> 8) / 16777216.0;
                        Act(which, unit);
                        Check(2u * n_3, sums);
                        Resave();
                        moment += TestWaits[n_3 % 31u];
                        Advance(moment);
                        Check((2u * n_3) + 1u, sums);
                    }
                }
                uint wrong = 0u;
                for (uint k = 0u; k < 28u; ++k)
                {
                    if (sums[k] != TestSums[k]) wrong += 1u;
                }
                return wrong;
            }
        }

        /// <summary>Whether this build computes exactly: without fused multiply-add, reordered sums, shared reciprocals, and with
        /// NaN.</summary>
        public static bool IsExact()
        {
            double near = Given(1.0 + 1.0 / 134217728.0), square = Given(-(1.0 + 1.0 / 67108864.0));
            double large = Given(1e16), one = Given(1.0), odd = Given(49.0), none = Given(double.NaN);
            bool exact = near * near + square == 0.0;
            exact = exact && (large + one) - large == 0.0;
            exact = exact && odd / odd == 1.0 && one / odd * odd != 1.0;
            return exact && double.IsNaN(none) && !(none < 0.0) && !(none >= 0.0);
        }

        // Hides a constant from the compiler.
        [System.Runtime.CompilerServices.MethodImpl(System.Runtime.CompilerServices.MethodImplOptions.NoInlining)]
        static double Given(double value)
        {
            return value;
        }

        /// <summary>Plays this file and compares checksums of everything that it gives with those of the preview: the number of
        /// lights that differ, 0 if this compiler gives bit-identical results. Allocates.</summary>
        public static int SelfTest()
        {
            return (int)Start(0u).Differences() + (IsExact() ? 0 : 1);
        }
    }

    /// <summary>A run as an object: what a readonly field or a property gives is the run itself, not a copy.</summary>
    public sealed class SaltgatePierRun
    {
        /// <summary>The run: its events, setters and reads.</summary>
        public SaltgatePier Run;

        /// <summary>A run at moment 0.</summary>
        public SaltgatePierRun(uint seed)
        {
            Run = SaltgatePier.Start(seed);
        }

        /// <summary>Goes to a moment of the run, in seconds since its start.</summary>
        public bool Advance(double to)
        {
            return Run.Advance(to);
        }

        /// <summary>Goes on by some seconds.</summary>
        public bool Step(double seconds)
        {
            return Run.Step(seconds);
        }
    }
}
