// Adds a value to a checksum.
static uint Checksum(uint sum, double value)
{
    ulong bits = unchecked((ulong)BitConverter.DoubleToInt64Bits(value));
    return Scramble(sum ^ unchecked((uint)(bits >> 32)) ^ unchecked((uint)bits));
}

// Adds the values of the n-th reading, one lamp of each light, to the checksums.
static void Check(ref BOOK run, uint n, uint[] sums)
{
    uint turn = n % 4u < 2u ? 0u : n / 4u; //: indexed
    Notice notice; //: notices
READS
    while (run.TakeNotice(out notice)) //: notices
    { //: notices
        sums[NOTICE_SUM] = Checksum(sums[NOTICE_SUM], notice.Moment); //: notices
        sums[NOTICE_SUM] = Checksum(sums[NOTICE_SUM], (double)notice.Lamp); //: notices
        sums[NOTICE_SUM] = Checksum(sums[NOTICE_SUM], (double)notice.X); //: notices
        sums[NOTICE_SUM] = Checksum(sums[NOTICE_SUM], (double)notice.Y); //: notices
        sums[NOTICE_SUM] = Checksum(sums[NOTICE_SUM], (double)notice.Z); //: notices
        sums[NOTICE_SUM] = Checksum(sums[NOTICE_SUM], NOTICE_VALUE); //: notices
    } //: notices
}

// What the game does in the self-test; unit is a chance of 0 to 1. //: acts
static void Act(ref BOOK run, uint act, double unit) //: acts
{ //: acts
    switch (act) //: acts
    { //: acts
CASES    } //: acts
} //: acts

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
    uint[] seeds = { SEEDS };
    double[] moments = { MOMENTS };
    double[] waits = { WAITS }; //: acts
    uint[] wanted = { SUMS };
    uint[] sums = new uint[SUM_COUNT];
    int wrong = IsExact() ? 0 : 1;
    for (uint round = 0; round < 2u; ++round)
    {
        BOOK run = Start(seeds[round]);
        for (uint n = 0; n < MOMENT_COUNT; ++n)
        {
            run.Advance(moments[n]);
            Check(ref run, n, sums);
        }
        for (uint n = 0; n < HOUR_COUNT; ++n) //: clock
        { //: clock
            run.SetClockDays(3.7 * (double)n); //: clock
            run.SetClock(0.2473 * (double)n); //: clock
            Check(ref run, n, sums); //: clock
        } //: clock
        run = Start(seeds[round]); //: acts
        double moment = 0.0; //: acts
        for (uint n = 0; n < STEP_COUNT; ++n) //: acts
        { //: acts
            uint step = round * STEP_COUNT + n; //: acts
            uint act = n < ACT_COUNT ? n : Scramble(unchecked(step + ACT_SALT)) % ACT_COUNT; //: acts
            Act(ref run, act, (double)(Scramble(step) >> 8) / 16777216.0); //: acts
            Check(ref run, 2u * n, sums); //: acts
            moment += waits[n % WAIT_COUNT]; //: acts
            run.Advance(moment); //: acts
            Check(ref run, 2u * n + 1u, sums); //: acts
        } //: acts
    }
    for (uint n = 0; n < SUM_COUNT; ++n) wrong += sums[n] == wanted[n] ? 0 : 1;
    return wrong;
}
