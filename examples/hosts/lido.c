/* A bare host of the Ostrel lido in C: frames of uneven length and a hitch, events out of order, a save and a load.

       caltrin export crates/caltrin/books/lido.caltrin --to c -o generated
       gcc -std=c99 -O2 -I generated examples/hosts/lido.c -lm -o lido && ./lido
*/
#define _POSIX_C_SOURCE 199309L
#include <stdio.h>
#include <time.h>
#include "ostrel_lido.h"

#define ONE(light) sum += ostrel_lido_read_##light(run).intensity;
#define ALL(light, count) { ostrel_lido_##light all[count]; ostrel_lido_fill_##light(run, 0u, count, all); sum += all[count - 1u].intensity; }

/* All that is seen in a frame: 18 single lamps and 18 arrays, thirty swimmers' ripples among them. */
static double look(const ostrel_lido_run *run)
{
    double sum = 0.0;
    ONE(base) ONE(daylight) ONE(moonlight) ONE(fountain) ONE(desk) ONE(exit_sign) ONE(kiosk_lamp) ONE(menu)
    ONE(freezer) ONE(guard_tv) ONE(tower_beam) ONE(buoy) ONE(pump_eye) ONE(gauge) ONE(siren) ONE(stage)
    ONE(oil_lamp) ONE(vending)
    ALL(pool_wall, 10u) ALL(lane_float, 24u) ALL(ripple, 30u) ALL(cabins_bulb, 9u) ALL(cabins_slit, 9u)
    ALL(annex_twin_bulb, 2u) ALL(annex_twin_slit, 2u) ALL(tube, 4u) ALL(locker_dot, 8u) ALL(letters, 6u)
    ALL(turnstile, 2u) ALL(stairs, 3u) ALL(path, 12u) ALL(shower, 6u) ALL(strip, 12u) ALL(garland, 16u)
    ALL(spray, 6u) ALL(star, 8u)
    return sum;
}

static double nanoseconds(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return 1e9 * (double)now.tv_sec + (double)now.tv_nsec;
}

int main(void)
{
    ostrel_lido_run run = ostrel_lido_start(23u), loaded;
    uint8_t saved[OSTREL_LIDO_SAVE_BYTES];
    uint32_t sum_of_save = 0u, dropped;
    ostrel_lido_notice notice;
    double time = 0.0, sum = 0.0, went = 0.0, looked = 0.0;
    unsigned frame, notices = 0u;
    if (ostrel_lido_self_test() != 0) return 1;
    for (frame = 0u; frame < 3000u; ++frame) {
        const double begin = nanoseconds();
        /* 4 to 24 ms, and now and then half a second is lost. */
        time += frame % 500u == 499u ? 0.5 : 0.004 + 0.02 * (double)(frame % 7u) / 6.0;
        if (frame == 100u) ostrel_lido_fire_mains_back(&run); /* they are on already: nothing happens */
        if (frame == 200u) ostrel_lido_fire_gala(&run);
        if (frame == 300u) ostrel_lido_fire_cabins_cord(&run, 3u);
        if (frame == 400u) ostrel_lido_fire_rocket(&run, 2000.0, 2500.0, -3000.0, 0.2, 1.0, 0.2, 2.0);
        if (frame == 700u) ostrel_lido_set_throttle(&run, 0.95);
        if (frame == 900u) ostrel_lido_fire_mains_out(&run);
        if (frame == 1000u) ostrel_lido_fire_mains_back(&run);
        if (frame == 1500u) ostrel_lido_save(&run, saved);
        if (frame == 2200u) ostrel_lido_set_walker(&run, 2300.0, 170.0, -100.0);
        while (!ostrel_lido_advance(&run, time)) { /* more than once only after a very long frame */ }
        went += nanoseconds() - begin;
        sum = look(&run);
        looked += nanoseconds() - begin;
        while (ostrel_lido_take_notice(&run, &notice))
            if (++notices <= 4u) printf("%.3f s: %s %s\n", notice.moment, notice.name, notice.text);
    }
    /* From the save on in one go, with what the game did meanwhile at its moment: the same, bit for bit. */
    if (!ostrel_lido_load(&loaded, saved, sizeof saved, &dropped) || dropped) return 3;
    for (frame = 1500u, time = loaded.now; frame < 2200u; ++frame)
        time += frame % 500u == 499u ? 0.5 : 0.004 + 0.02 * (double)(frame % 7u) / 6.0;
    ostrel_lido_advance(&loaded, time);
    ostrel_lido_set_walker(&loaded, 2300.0, 170.0, -100.0);
    ostrel_lido_advance(&loaded, run.now);
    if (look(&loaded) != sum) return 2;
    for (frame = 0u; frame < sizeof saved; ++frame) sum_of_save = 31u * sum_of_save + saved[frame];
    printf("%.1f s, %u notices, the same after loading\n", run.now, notices);
    printf("a save of %u bytes, %08x\n", (unsigned)sizeof saved, (unsigned)sum_of_save);
    printf("a frame: %.0f ns to advance, %.0f ns to read 187 lamps; %u bytes a run\n", went / 3000.0,
        (looked - went) / 3000.0, (unsigned)sizeof run);
    return 0;
}
