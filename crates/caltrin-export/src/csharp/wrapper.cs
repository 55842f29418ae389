/// <summary>A run as an object: what a readonly field or a property gives is the run itself, not a copy.</summary>
public sealed class BOOKRun
{
    /// <summary>The run: its events, setters and reads.</summary>
    public BOOK Run;

    /// <summary>A run at moment 0.</summary>
    public BOOKRun(uint seed)
    {
        Run = BOOK.Start(seed);
    }

    /// <summary>Goes to a moment of the run, in seconds since its start.</summary>
    public TYPE Advance(double to)
    {
        GIVESRun.Advance(to);
    }

    /// <summary>Goes on by some seconds.</summary>
    public TYPE Step(double seconds)
    {
        GIVESRun.Step(seconds);
    }
}
