// Which `ABOUT` is free: the lowest that does not live, else NONE.
double FREE()
{
    uint oldest = 0;
    for (uint n = 0; n < COUNTu; ++n)
    {
        if (!(BORN.At(n) + LENGTH.At(n) > Now)) return n;
        if (BORN.At(n) < BORN.At(oldest)) oldest = n;
    }
    return NONE;
}

