/* Which `ABOUT` is free: the lowest that does not live, else NONE. */
static inline double FREE(const BOOK_run *run)
{
    uint32_t n;
    uint32_t oldest = 0;
    for (n = 0; n < COUNTu; ++n) {
        if (!(run->BORN[n] + run->LENGTH[n] > run->now)) return (double)n;
        if (run->BORN[n] < run->BORN[oldest]) oldest = n;
    }
    return (double)NONE;
}

