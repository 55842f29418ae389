/* A bare host of the pier in C: frames of uneven length and a hitch, events in any order, a save and a load.

       gcc -std=c99 -O2 -I examples/exported examples/hosts/pier.c -lm -o pier && ./pier
*/
#define _POSIX_C_SOURCE 199309L
#include <stdio.h>
#include <time.h>
#include "saltgate_pier.h"

static double nanoseconds(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return 1e9 * (double)now.tv_sec + (double)now.tv_nsec;
}

int main(void)
{
    saltgate_pier_run run = saltgate_pier_start(41u), saved = run;
    saltgate_pier_mast masts[8];
    saltgate_pier_notice notice;
    double time = 0.0, spent = 0.0;
    unsigned frame, notices = 0u;
    if (saltgate_pier_self_test() != 0) return 1;
    for (frame = 0u; frame < 3000u; ++frame) {
        const double begin = nanoseconds();
        /* 4 to 24 ms, and now and then half a second is lost. */
        time += frame % 500u == 499u ? 0.5 : 0.004 + 0.02 * (double)(frame % 7u) / 6.0;
        if (frame == 200u) saltgate_pier_fire_power_back(&run); /* it is on already: nothing happens */
        if (frame == 300u) saltgate_pier_fire_ferry_docks(&run);
        if (frame == 900u) saltgate_pier_set_swell(&run, 0.9);
        if (frame == 1200u) saltgate_pier_fire_power_cut(&run);
        if (frame == 1300u) saltgate_pier_fire_power_back(&run);
        if (frame == 1500u) saved = run; /* a run is a plain value */
        while (!saltgate_pier_advance(&run, time)) { /* the rest of a very long frame */ }
        saltgate_pier_fill_mast(&run, 0u, 8u, masts);
        spent += nanoseconds() - begin;
        while (saltgate_pier_take_notice(&run, &notice)) {
            ++notices;
            if (notices <= 4u) printf("%.3f s: %s %s\n", notice.moment, notice.name, notice.text);
        }
    }
    /* From the save on in one go: the same, to the bit. */
    saltgate_pier_advance(&saved, time);
    for (frame = 0u; frame < 8u; ++frame)
        if (saltgate_pier_read_mast(&saved, frame).intensity != masts[frame].intensity) return 2;
    printf("%.1f s, %u notices, mast 0 at %.0f lm, the same after loading\n", time, notices, masts[0].intensity);
    printf("%.0f ns a frame with 8 masts, %u bytes a run\n", spent / 3000.0, (unsigned)sizeof run);
    return 0;
}
