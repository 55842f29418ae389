// Lets a notice wait until the host takes it, if there is room.
void Send(uint line, double text, uint lampVALUE_PARAMETERS)
{
    if (COUNT >= 32.0)
    {
        DROPPED += 1.0;
        return;
    }
    double end = FIRST + COUNT;
    uint at = (uint)(end >= 32.0 ? end - 32.0 : end);
    COUNT += 1.0;
    MOMENTS.Put(at, Now);
    PACKED.Put(at, ((double)line * 64.0 + text) * 1048576.0 + (double)lamp);
    double x, y, z; //: placed
    NoticePlace(line, lamp, out x, out y, out z); //: placed
    KEEP axis //: placed
    KEEP_VALUE
}
 //: placed
// Where the lamp is that the notice of a line comes from. //: placed
void NoticePlace(uint line, uint lamp, out double x, out double y, out double z) //: placed
{ //: placed
    x = y = z = 0.0; //: placed
    switch (line) //: placed
    { //: placed
PLACES
    } //: placed
} //: placed

//: take
/// <summary>What the book tells the game when something happens.</summary>
public struct Notice
{
    public double Moment; // s since the run's start
    public string Name; // the book's name for it
    public string Text; // what comes with it, one of several by chance; empty for nothing
    public string From; // the light or instance that it comes from; empty for none
    public uint Lamp; // which lamp of the light, or which instance
    public float X, Y, Z; // where that lamp was then; 0 where the book does not say
    VALUE_FIELD
}

/// <summary>Takes the oldest notice that waits; false if there is none. 32 may wait.</summary>
public bool TakeNotice(out Notice notice)
{
    notice = new Notice { Name = "", Text = "", From = "" };
    if (COUNT <= 0.0) return false;
    uint at = (uint)FIRST;
    uint which = (uint)(PACKED.At(at) / 1048576.0);
    uint text = which % 64u;
    COUNT -= 1.0;
    FIRST = FIRST >= 31.0 ? 0.0 : FIRST + 1.0;
    notice.Moment = MOMENTS.At(at);
    notice.Lamp = (uint)(PACKED.At(at) - (double)which * 1048576.0);
    notice.AXIS = (float)KEPT; //: placed
    VALUE_TAKEN
    switch (which / 64u)
    {
LINES    }
    return true;
}

/// <summary>How many notices there was no room for since the start.</summary>
public uint DroppedNotices()
{
    return (uint)DROPPED;
}

