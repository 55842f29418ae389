#define _POSIX_C_SOURCE 199309L
#include "bench.h"
#include "hand.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#define LAMPS 100000u

static bench_row row[LAMPS];
static bench_mantle mantle[LAMPS];
static bench_flame flame[LAMPS];
static hand_lamp hand[LAMPS];

/* Arguments: what to run, how many frames. Prints nanoseconds for all of them. */
int main(int argc, char **argv)
{
    const char *what = argc > 1 ? argv[1] : "";
    const long frames = argc > 2 ? atol(argv[2]) : 1;
    struct timespec a, b;
    bench_run run = bench_start(41u);
    volatile float sink = 0.0f;
    long n;
    clock_gettime(CLOCK_MONOTONIC, &a);
    for (n = 0; n < frames; ++n) {
        const double t = 100.0 + (double)n * 0.0166;
        bench_advance(&run, t);
        if (!strcmp(what, "exported_row")) { bench_fill_row(&run, 0, LAMPS, row); sink = row[n % LAMPS].intensity; }
        else if (!strcmp(what, "hand_row")) { hand_row(run.now, run.seed, LAMPS, hand); sink = hand[n % LAMPS].intensity; }
        else if (!strcmp(what, "exported_mantle")) { bench_fill_mantle(&run, 0, LAMPS, mantle); sink = mantle[n % LAMPS].intensity; }
        else if (!strcmp(what, "hand_mantle")) { hand_mantle(run.now, run.seed, LAMPS, hand); sink = hand[n % LAMPS].intensity; }
        else if (!strcmp(what, "exported_flame")) { bench_fill_flame(&run, 0, LAMPS, flame); sink = flame[n % LAMPS].intensity; }
        else if (!strcmp(what, "hand_flame")) { hand_flame(run.now, run.seed, LAMPS, hand); sink = hand[n % LAMPS].intensity; }
        else if (!strcmp(what, "exported_single")) sink = bench_read_single(&run).intensity;
        else if (!strcmp(what, "hand_single")) sink = hand_single(run.now, run.seed).intensity;
    }
    clock_gettime(CLOCK_MONOTONIC, &b);
    (void)sink;
    printf("%.0f\n", (double)(b.tv_sec - a.tv_sec) * 1e9 + (double)(b.tv_nsec - a.tv_nsec));
    return 0;
}
