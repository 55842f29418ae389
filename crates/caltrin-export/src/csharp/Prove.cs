using System;
using System.IO;

internal static class Prove
{
    private static int Main(string[] arguments)
    {
        if (arguments.Length < 2) return Lightbooks.BOOK.SelfTest() == 0 ? 0 : 1;
        using (var input = new BinaryReader(File.OpenRead(arguments[0])))
        using (var output = new BinaryWriter(new BufferedStream(File.Create(arguments[1]), 1 << 16)))
        {
            long records = input.BaseStream.Length / (16 + 8 * SLOTS);
            var inputs = new double[SLOTS];
            var run = Lightbooks.BOOK.Start(0u);
            for (long record = 0; record < records; ++record)
            {
                double moment = input.ReadDouble();
                ulong seed = input.ReadUInt64();
                // Else it goes on from where it was.
                if (seed >> 32 == 0u) run = Lightbooks.BOOK.Start((uint)seed);
                for (int n = 0; n < inputs.Length; ++n) inputs[n] = input.ReadDouble();
                // SETS
                // CLOCK
                run.Advance(moment);
            // READS
            }
        }
        return 0;
    }
}
