/* Adds a value to a checksum. */
static inline uint32_t BOOK_checksum(uint32_t sum, double value)
{
    uint64_t bits;
    memcpy(&bits, &value, sizeof bits);
    return BOOK_scramble(sum ^ (uint32_t)(bits >> 32) ^ (uint32_t)bits);
}

/* Adds the values of the n-th reading, one lamp of each light, to the checksums. */
API void BOOK_check(BOOK_run *run, uint32_t n, uint32_t *sums)
{
    const uint32_t turn = n % 4u < 2u ? 0u : n / 4u; //: indexed
    BOOK_notice notice; //: notices
READS
    while (BOOK_take_notice(run, &notice)) { //: notices
        sums[NOTICE_SUM] = BOOK_checksum(sums[NOTICE_SUM], notice.moment); //: notices
        sums[NOTICE_SUM] = BOOK_checksum(sums[NOTICE_SUM], (double)notice.lamp); //: notices
        sums[NOTICE_SUM] = BOOK_checksum(sums[NOTICE_SUM], (double)notice.position[0]); //: notices
        sums[NOTICE_SUM] = BOOK_checksum(sums[NOTICE_SUM], (double)notice.position[1]); //: notices
        sums[NOTICE_SUM] = BOOK_checksum(sums[NOTICE_SUM], (double)notice.position[2]); //: notices
        sums[NOTICE_SUM] = BOOK_checksum(sums[NOTICE_SUM], NOTICE_VALUE); //: notices
    } //: notices
    (void)n; //: single
    (void)run, (void)sums; //: empty
}

/* What the game does in the self-test; unit is a chance of 0 to 1. */ //: acts
API void BOOK_act(BOOK_run *run, uint32_t act, double unit) //: acts
{ //: acts
    (void)unit; //: acts
    switch (act) { //: acts
CASES    } //: acts
} //: acts

/* Plays this file and compares checksums of everything that it gives with those of the preview: the number of lights
   that differ, 0 if this compiler gives bit-identical results. */
API int BOOK_self_test(void)
{
    static const uint32_t seeds[2] = {SEEDS};
    static const double moments[MOMENT_COUNT] = {MOMENTS};
    static const double waits[WAIT_COUNT] = {WAITS}; //: acts
    static const uint32_t wanted[SUM_COUNT] = {SUMS};
    uint32_t sums[SUM_COUNT] = {0u};
    int wrong = BOOK_is_exact() ? 0 : 1;
    uint32_t round, n;
    for (round = 0; round < 2u; ++round) {
        BOOK_run run = BOOK_start(seeds[round]);
        double moment = 0.0; //: acts
        for (n = 0; n < MOMENT_COUNT; ++n) {
            BOOK_advance(&run, moments[n]);
            BOOK_check(&run, n, sums);
        }
        for (n = 0; n < HOUR_COUNT; ++n) { //: clock
            BOOK_set_clock_days(&run, 3.7 * (double)n); //: clock
            BOOK_set_clock(&run, 0.2473 * (double)n); //: clock
            BOOK_check(&run, n, sums); //: clock
        } //: clock
        run = BOOK_start(seeds[round]); //: acts
        for (n = 0; n < STEP_COUNT; ++n) { //: acts
            const uint32_t step = round * STEP_COUNT + n; //: acts
            const uint32_t act = n < ACT_COUNT ? n : BOOK_scramble(step + ACT_SALT) % ACT_COUNT; //: acts
            BOOK_act(&run, act, (double)(BOOK_scramble(step) >> 8) / 16777216.0); //: acts
            BOOK_check(&run, 2u * n, sums); //: acts
            moment += waits[n % WAIT_COUNT]; //: acts
            BOOK_advance(&run, moment); //: acts
            BOOK_check(&run, 2u * n + 1u, sums); //: acts
        } //: acts
    }
    for (n = 0; n < SUM_COUNT; ++n) wrong += sums[n] != wanted[n];
    return wrong;
}
