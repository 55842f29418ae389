// A bare host of the pier in C#: frames of uneven length and a hitch, events in any order, a save and a load.
//
//     mcs -optimize+ -out:Pier.exe examples/hosts/Pier.cs examples/exported/saltgate_pier.cs && mono Pier.exe
using System;
using System.Diagnostics;
using Lightbooks;

static class Host
{
    static int Main()
    {
        if (SaltgatePier.SelfTest() != 0) return 1;
        SaltgatePier run = SaltgatePier.Start(41u), saved = run;
        var masts = new SaltgatePier.Mast[8];
        double time = 0.0;
        uint notices = 0u;
        var watch = new Stopwatch();
        for (uint frame = 0u; frame < 3000u; ++frame)
        {
            watch.Start();
            // 4 to 24 ms, and now and then half a second is lost.
            time += frame % 500u == 499u ? 0.5 : 0.004 + 0.02 * (double)(frame % 7u) / 6.0;
            if (frame == 200u) run.FirePowerBack(); // it is on already: nothing happens
            if (frame == 300u) run.FireFerryDocks();
            if (frame == 900u) run.SetSwell(0.9);
            if (frame == 1200u) run.FirePowerCut();
            if (frame == 1300u) run.FirePowerBack();
            if (frame == 1500u) saved = run; // a run is a plain value
            while (!run.Advance(time)) { } // more than once only after a very long frame
            run.FillMast(0u, masts);
            watch.Stop();
            SaltgatePier.Notice notice;
            while (run.TakeNotice(out notice))
            {
                if (++notices <= 4u) Console.WriteLine("{0:F3} s: {1} {2}", notice.Moment, notice.Name, notice.Text);
            }
        }
        // From the save on in one go: the same, to the bit.
        saved.Advance(time);
        for (uint n = 0u; n < 8u; ++n)
            if (saved.ReadMast(n).Intensity != masts[n].Intensity) return 2;
        Console.WriteLine("{0:F1} s, {1} notices, mast 0 at {2:F0} lm, the same after loading", time, notices, masts[0].Intensity);
        Console.WriteLine("{0:F2} us a frame with 8 masts", watch.Elapsed.TotalMilliseconds * 1000.0 / 3000.0);
        return 0;
    }
}
