// Hot swap in C#: a run of the Ostrel lido goes on in code that was exported after the book was changed.
//
//     caltrin export crates/caltrin/books/lido.caltrin --to csharp -o generated
//     (the book is changed)
//     caltrin export crates/caltrin/books/lido.caltrin --to csharp --prefix changed_lido -o generated/changed
//     mcs -out:Swap.exe examples/hosts/Swap.cs generated/ostrel_lido.cs generated/changed/ostrel_lido.cs && mono Swap.exe

using System;
using Old = Lightbooks.OstrelLido;
using New = ChangedLido.OstrelLido;

static class Host
{
    static int Main()
    {
        Old old = Old.Start(23u);
        old.Advance(1.0);
        old.SetThrottle(0.95);
        old.Advance(6.0);
        old.FireMainsOut();
        old.Advance(6.02);

        // In the middle of a fade: the old code saves, the new code loads.
        New next = New.Start(0u);
        uint dropped;
        if (!next.Load(old.Save(), out dropped)) return 1;

        // What the change leaves alone gives the same light from here on, bit for bit.
        uint same = 0u;
        for (uint frame = 0u; frame < 600u; ++frame)
        {
            double moment = 6.02 + frame / 60.0;
            old.Advance(moment);
            next.Advance(moment);
            bool alike = old.ReadFountain().Intensity == next.ReadFountain().Intensity
                && old.ReadSiren().Intensity == next.ReadSiren().Intensity
                && old.ReadTube(3u).Intensity == next.ReadTube(3u).Intensity;
            if (alike) same += 1u;
        }
        Console.WriteLine("{0} of 600 frames alike, {1} dropped, {2} layout", same, dropped,
            Old.Layout == New.Layout ? "the same" : "another");
        return same == 600u ? 0 : 1;
    }
}
