/// <summary>How much an option counts now, 0 to 1.</summary>
double WEIGHT(uint option)
{
    double to = option == FIELD ? 1.0 : 0.0;
    return Faded(FIELD_FROM.At(option), to, FIELD_SINCE, OVER, Now);
}

public void SET(uint option)
{
    if (option >= COUNTu || option == FIELD) return;
    for (uint n = 0u; n < COUNTu; ++n) FIELD_FROM.Put(n, WEIGHT(n));
    FIELD_SINCE = Now;
    FIELD = option;
SETTLE}

//: plain
public void SET(uint option)
{
    if (option < COUNTu) FIELD = option;
SETTLE}

