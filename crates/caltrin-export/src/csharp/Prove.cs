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
            long pairs = input.BaseStream.Length / 16;
            for (long n = 0; n < pairs; ++n)
            {
                double moment = input.ReadDouble();
                uint seed = (uint)input.ReadUInt64();
                var run = Lightbooks.BOOK.Start(seed);
                run.Advance(moment);
            // READS
            }
        }
        return 0;
    }
}
