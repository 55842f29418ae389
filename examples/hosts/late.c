/* A networked game in C: events come late and at other frame rates, and both machines show the same lights.

       caltrin export crates/caltrin/books/lido.caltrin --to c -o generated
       gcc -std=c99 -O2 -I generated examples/hosts/late.c -lm -o late && ./late

   Each event has the moment at which it happened. A machine that hears of it later goes back to a copy of the run from
   before that moment, fires it then, and comes back to the present. A run is a plain value, so that a copy is an assignment.
*/
#include <stdio.h>
#include "ostrel_lido.h"

enum { KEPT = 16, EVENTS = 6 };

/* What happened, when, and after how long the other machine hears of it, in seconds. */
typedef struct happening {
    double moment, latency;
    int what;
} happening;

static const happening happened[EVENTS] = {
    {1.013, 0.25, 0}, {2.404, 0.08, 1}, {2.450, 0.31, 2}, {4.900, 0.02, 3}, {6.117, 0.44, 4}, {6.300, 0.12, 5},
};

static void act(ostrel_lido_run *run, int what)
{
    switch (what) {
        case 0: ostrel_lido_fire_gala(run); break;
        case 1: ostrel_lido_fire_cabins_cord(run, 3u); break;
        case 2: ostrel_lido_set_throttle(run, 0.95); break;
        case 3: ostrel_lido_fire_rocket(run, 2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0); break;
        case 4: ostrel_lido_fire_mains_out(run); break;
        default: ostrel_lido_fire_mains_back(run); break;
    }
}

/* A machine: its run, copies of it from the last seconds, and what it has heard of. */
typedef struct machine {
    ostrel_lido_run run, kept[KEPT];
    unsigned count;
    bool heard[EVENTS];
    unsigned rollbacks;
} machine;

/* To a moment, with all that is known to have happened on the way. */
static void go(machine *m, double to)
{
    int n;
    for (n = 0; n < EVENTS; ++n) {
        const double moment = happened[n].moment;
        if (m->heard[n] && moment > m->run.now && moment <= to) {
            ostrel_lido_advance(&m->run, moment);
            act(&m->run, happened[n].what);
        }
    }
    ostrel_lido_advance(&m->run, to);
}

/* An event is heard of: at once if it is of now or later, else by going back. */
static void hear(machine *m, int n)
{
    const double present = m->run.now;
    m->heard[n] = true;
    if (happened[n].moment > present) return;
    while (m->count > 1u && m->kept[(m->count - 1u) % KEPT].now >= happened[n].moment) --m->count;
    m->run = m->kept[(m->count - 1u) % KEPT];
    m->rollbacks += 1u;
    go(m, present);
}

/* Plays 10 seconds at a frame rate; events are heard of late, or when they happen. */
static void play(machine *m, double rate, bool late)
{
    bool told[EVENTS] = {false};
    unsigned frame;
    int n;
    m->run = ostrel_lido_start(23u);
    m->kept[0] = m->run;
    m->count = 1u;
    for (frame = 1u; frame <= (unsigned)(10.0 * rate); ++frame) {
        const double now = frame / rate;
        for (n = 0; n < EVENTS; ++n) {
            if (!told[n] && happened[n].moment + (late ? happened[n].latency : 0.0) <= now) {
                told[n] = true;
                hear(m, n);
            }
        }
        go(m, now);
        /* A copy ten times a second: 1.6 s in all. */
        if (now >= m->kept[(m->count - 1u) % KEPT].now + 0.1) m->kept[m->count++ % KEPT] = m->run;
    }
    go(m, 10.0);
}

int main(void)
{
    static machine here, there;
    static uint8_t saved[2][OSTREL_LIDO_SAVE_BYTES];
    play(&here, 60.0, false);
    play(&there, 37.0, true);
    ostrel_lido_save(&here.run, saved[0]);
    ostrel_lido_save(&there.run, saved[1]);
    printf("%u and %u times back; %s\n", here.rollbacks, there.rollbacks,
        memcmp(saved[0], saved[1], sizeof saved[0]) == 0 ? "the same run" : "another run");
    return memcmp(saved[0], saved[1], sizeof saved[0]) != 0;
}
