/* Hot swap in C: a run of the Ostrel lido goes on in code that was exported after the book was changed.

       caltrin export crates/caltrin/books/lido.caltrin --to c -o generated
       (the book is changed)
       caltrin export crates/caltrin/books/lido.caltrin --to c --prefix changed_lido -o generated
       gcc -std=c99 -O2 -I generated examples/hosts/swap.c -lm -o swap && ./swap
*/
#include <stdio.h>
#include "ostrel_lido.h"
#include "changed_lido.h"

int main(void)
{
    static uint8_t saved[OSTREL_LIDO_SAVE_BYTES];
    ostrel_lido_run old = ostrel_lido_start(23u);
    changed_lido_run next = changed_lido_start(0u);
    uint32_t dropped;
    unsigned frame, same = 0u;

    ostrel_lido_advance(&old, 1.0);
    ostrel_lido_set_throttle(&old, 0.95);
    ostrel_lido_advance(&old, 6.0);
    ostrel_lido_fire_mains_out(&old);
    ostrel_lido_advance(&old, 6.02);

    /* In the middle of a fade: the old code saves, the new code loads. */
    ostrel_lido_save(&old, saved);
    if (!changed_lido_load(&next, saved, sizeof saved, &dropped)) return 1;

    /* What the change leaves alone gives the same light from here on, bit for bit. */
    for (frame = 0u; frame < 600u; ++frame) {
        const double moment = 6.02 + frame / 60.0;
        ostrel_lido_advance(&old, moment);
        changed_lido_advance(&next, moment);
        same += ostrel_lido_read_fountain(&old).intensity == changed_lido_read_fountain(&next).intensity
            && ostrel_lido_read_siren(&old).intensity == changed_lido_read_siren(&next).intensity
            && ostrel_lido_read_tube(&old, 3u).intensity == changed_lido_read_tube(&next, 3u).intensity;
    }
    printf("%u of 600 frames alike, %u dropped, %s layout\n", same, (unsigned)dropped,
        OSTREL_LIDO_LAYOUT == CHANGED_LIDO_LAYOUT ? "the same" : "another");
    return same != 600u;
}
