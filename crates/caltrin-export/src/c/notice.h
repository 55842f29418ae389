/* Where the lamp is that the notice of a line comes from. */ //: placed
static inline void BOOK_notice_place(const BOOK_run *run, uint32_t line, uint32_t lamp, double *place); //: placed
 //: placed
/* A count as a whole number of at most so many, also in a run that was never started. */
static inline uint32_t BOOK_counted(double count, uint32_t most)
{
    return count > 0.0 ? (count < (double)most ? (uint32_t)count : most) : 0u;
}

/* Lets a notice wait until the host takes it, if there is room. */
static inline void BOOK_send(BOOK_run *run, uint32_t line, double text, uint32_t lampVALUE_PARAMETERS)
{
    const uint32_t count = BOOK_counted(run->COUNT, 32u);
    const uint32_t at = (BOOK_counted(run->FIRST, 31u) + count) % 32u;
    double place[3]; //: placed
    if (count == 32u) {
        run->DROPPED += 1.0;
        return;
    }
    run->COUNT = (double)(count + 1u);
    run->MOMENTS[at] = run->now;
    run->PACKED[at] = ((double)line * 64.0 + text) * 1048576.0 + (double)lamp;
    BOOK_notice_place(run, line, lamp, place); //: placed
    KEEP place[PART] //: placed
    KEEP_VALUE
}

//: take
static inline void BOOK_notice_place(const BOOK_run *run, uint32_t line, uint32_t lamp, double *place) //: placed
{ //: placed
    place[0] = place[1] = place[2] = 0.0; //: placed
    (void)lamp; //: placed
    switch (line) { //: placed
PLACES
    } //: placed
} //: placed
 //: placed
/* What the book tells the game when something happens. */
typedef struct BOOK_notice {
    double moment;     /* s since the run's start */
    const char *name;  /* the book's name for it */
    const char *text;  /* what comes with it, one of several by chance; empty for nothing */
    const char *from;  /* the light or instance that it comes from; empty for none */
    uint32_t lamp;     /* which lamp of the light, or which instance */
    float position[3]; /* where that lamp was then; 0 where the book does not say */
    VALUE_FIELD
} BOOK_notice;

/* Takes the oldest notice that waits; false if there is none. 32 may wait. */
API bool BOOK_take_notice(BOOK_run *run, BOOK_notice *notice)
{
    const uint32_t at = BOOK_counted(run->FIRST, 31u);
    const uint32_t count = BOOK_counted(run->COUNT, 32u);
    const double packed = run->PACKED[at] >= 0.0 && run->PACKED[at] < 1e12 ? run->PACKED[at] : 0.0;
    const uint32_t which = (uint32_t)(packed / 1048576.0);
    const uint32_t text = which % 64u;
    if (count == 0u) return false;
    run->COUNT = (double)(count - 1u);
    run->FIRST = (double)((at + 1u) % 32u);
    memset(notice, 0, sizeof *notice);
    notice->moment = run->MOMENTS[at];
    notice->lamp = (uint32_t)(packed - (double)which * 1048576.0);
    notice->text = "";
    notice->position[PART] = (float)KEPT; //: placed
    VALUE_TAKEN
    switch (which / 64u) {
LINES    }
    (void)text;
    return true;
}

/* How many notices there was no room for since the start. */
API uint32_t BOOK_dropped_notices(const BOOK_run *run)
{
    return BOOK_counted(run->DROPPED, 4294967295u);
}

