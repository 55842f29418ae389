// A bare host of the Ostrel lido in C#: frames of uneven length and a hitch, events out of order, a save and a load.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to csharp -o generated
//     mcs -optimize+ -out:Lido.exe examples/hosts/Lido.cs generated/ostrel_lido.cs && mono Lido.exe
using System;
using System.Diagnostics;
using Lightbooks;
using Lido = Lightbooks.OstrelLido;

static class Host
{
    static readonly Lido.PoolWall[] poolWall = new Lido.PoolWall[10];
    static readonly Lido.LaneFloat[] laneFloat = new Lido.LaneFloat[24];
    static readonly Lido.CabinsBulb[] bulbs = new Lido.CabinsBulb[9];
    static readonly Lido.Tube[] tubes = new Lido.Tube[4];
    static readonly Lido.Path[] path = new Lido.Path[12];
    static readonly Lido.Garland[] garland = new Lido.Garland[16];
    static readonly Lido.Star[] stars = new Lido.Star[8];

    // What is seen from the basin; nothing of it allocates.
    static double Look(ref Lido run)
    {
        run.FillPoolWall(0u, poolWall);
        run.FillLaneFloat(0u, laneFloat);
        run.FillCabinsBulb(0u, bulbs);
        run.FillTube(0u, tubes);
        run.FillPath(0u, path);
        run.FillGarland(0u, garland);
        run.FillStar(0u, stars);
        double sum = run.ReadFountain().Intensity;
        sum += run.ReadStage().Intensity;
        sum += run.ReadSiren().Intensity;
        return sum + poolWall[9].Intensity + laneFloat[23].Intensity + bulbs[8].Intensity + tubes[3].Intensity + path[11].Intensity
            + garland[15].Intensity + stars[7].Intensity;
    }

    static double Frame(uint n) { return n % 500u == 499u ? 0.5 : 0.004 + 0.02 * (double)(n % 7u) / 6.0; }

    static int Main()
    {
        if (Lido.SelfTest() != 0) return 1;
        Lido run = Lido.Start(23u);
        byte[] saved = null;
        double time = 0.0, sum = 0.0;
        uint notices = 0u;
        Stopwatch going = new Stopwatch(), looking = new Stopwatch();
        for (uint frame = 0u; frame < 3000u; ++frame)
        {
            going.Start();
            time += Frame(frame); // 4 to 24 ms, and now and then half a second is lost
            if (frame == 100u) run.FireMainsBack(); // they are on already: nothing happens
            if (frame == 200u) run.FireGala();
            if (frame == 300u) run.FireCabinsCord(3u);
            if (frame == 400u) run.FireRocket(2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0);
            if (frame == 700u) run.SetThrottle(0.95);
            if (frame == 900u) run.FireMainsOut();
            if (frame == 1000u) run.FireMainsBack();
            if (frame == 1500u) saved = run.Save();
            if (frame == 2200u) run.SetWalker(2300.0, 170.0, -100.0);
            while (!run.Advance(time)) { } // more than once only after a very long frame
            going.Stop();
            looking.Start();
            sum = Look(ref run);
            looking.Stop();
            Lido.Notice notice;
            while (run.TakeNotice(out notice))
            {
                if (++notices <= 4u) Console.WriteLine("{0:F3} s: {1} {2}", notice.Moment, notice.Name, notice.Text);
            }
        }
        // From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit.
        Lido loaded = Lido.Start(0u);
        uint dropped;
        if (!loaded.Load(saved, out dropped) || dropped != 0u) return 3;
        time = loaded.Now;
        for (uint frame = 1500u; frame < 2200u; ++frame) time += Frame(frame);
        loaded.Advance(time);
        loaded.SetWalker(2300.0, 170.0, -100.0);
        loaded.Advance(run.Now);
        if (Look(ref loaded) != sum) return 2;
        uint sumOfSave = 0u;
        foreach (byte one in saved) sumOfSave = unchecked(31u * sumOfSave + one);
        Console.WriteLine("{0:F1} s, {1} notices, the same after loading", run.Now, notices);
        Console.WriteLine("a save of {0} bytes, {1:x8}", saved.Length, sumOfSave);
        Console.WriteLine("a frame: {0:F2} us to advance, {1:F2} us to read 86 lamps",
            going.Elapsed.TotalMilliseconds / 3.0, looking.Elapsed.TotalMilliseconds / 3.0);
        return 0;
    }
}
