/* How much an option counts now, 0 to 1. */
static inline double WEIGHT(const BOOK_run *run, uint32_t option)
{
    const double to = option == run->FIELD ? 1.0 : 0.0;
    return BOOK_faded(run->FIELD_FROM[option], to, run->FIELD_SINCE, OVER, run->now);
}

API void SET(BOOK_run *run, uint32_t option)
{
    uint32_t n;
    if (option >= COUNTu || option == run->FIELD) return;
    for (n = 0; n < COUNTu; ++n) run->FIELD_FROM[n] = WEIGHT(run, n);
    run->FIELD_SINCE = run->now;
    run->FIELD = option;
SETTLE}

//: plain
API void SET(BOOK_run *run, uint32_t option)
{
    if (option < COUNTu) run->FIELD = option;
SETTLE}

