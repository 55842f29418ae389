/* Where the lamp is that the notice of a line comes from. */ //: placed
static inline void BOOK_notice_place(const BOOK_run *run, uint32_t line, uint32_t lamp, double *place); //: placed
 //: placed
/* Lets a notice wait until the host takes it, if there is room. */
static inline void BOOK_send(BOOK_run *run, uint32_t line, double text, uint32_t lamp)
{
    const double end = run->FIRST + run->COUNT;
    const uint32_t at = (uint32_t)(end >= 32.0 ? end - 32.0 : end);
    double place[3]; //: placed
    if (run->COUNT >= 32.0) {
        run->DROPPED += 1.0;
        return;
    }
    run->COUNT += 1.0;
    run->MOMENTS[at] = run->now;
    run->PACKED[at] = ((double)line * 64.0 + text) * 1048576.0 + (double)lamp;
    BOOK_notice_place(run, line, lamp, place); //: placed
    KEEP place[PART] //: placed
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
    const char *from;  /* the light or placing that it comes from; empty for none */
    uint32_t lamp;     /* which lamp of the light, or which placing */
    float position[3]; /* where that lamp was then; 0 where the book does not say */
} BOOK_notice;

/* Takes the oldest notice that waits; false if there is none. 32 may wait. */
API bool BOOK_take_notice(BOOK_run *run, BOOK_notice *notice)
{
    const uint32_t at = (uint32_t)run->FIRST;
    uint32_t which, text;
    if (run->COUNT <= 0.0) return false;
    which = (uint32_t)(run->PACKED[at] / 1048576.0);
    text = which % 64u;
    run->COUNT -= 1.0;
    run->FIRST = run->FIRST >= 31.0 ? 0.0 : run->FIRST + 1.0;
    memset(notice, 0, sizeof *notice);
    notice->moment = run->MOMENTS[at];
    notice->lamp = (uint32_t)(run->PACKED[at] - (double)which * 1048576.0);
    notice->text = "";
    notice->position[PART] = (float)KEPT; //: placed
    switch (which / 64u) {
LINES    }
    (void)text;
    return true;
}

/* How many notices there was no room for since the start. */
API uint32_t BOOK_dropped_notices(const BOOK_run *run)
{
    return (uint32_t)run->DROPPED;
}

