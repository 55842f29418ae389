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
            for (long record = 0; record < records; ++record)
            {
                double moment = input.ReadDouble();
                uint seed = (uint)input.ReadUInt64();
                var run = Lightbooks.BOOK.Start(seed);
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
