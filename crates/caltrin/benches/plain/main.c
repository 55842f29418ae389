/* Four lights of plain.caltrin, exported and as an engine programmer would write them by hand: in double and in float,
   from the moment alone. */
#define _POSIX_C_SOURCE 199309L
#include "tide_gauge.h"

#include <stdio.h>
#include <stdlib.h>
#include <time.h>

#define LAMPS 256u

typedef struct { float intensity; } plain_lamp;

static uint32_t mix(uint32_t x)
{
    x ^= x >> 16; x *= 0x21f0aaadu;
    x ^= x >> 15; x *= 0x735a2d97u;
    return x ^ (x >> 15);
}

static uint32_t drawn(uint32_t key, uint32_t i)
{
    return mix(mix(i + key) ^ key);
}

/* The same four in double and in float. */
#define PLAIN(NAME, REAL, FLOOR, SIN, PI)                                                                      \
    static REAL NAME##_unit(uint32_t bits) { return (REAL)(bits >> 8) * (REAL)(1.0 / 16777216.0); }            \
    static REAL NAME##_phase(uint32_t key) { return NAME##_unit(mix(key + 0x9e3779b9u)); }                     \
    static REAL NAME##_smooth(REAL u) { return u * u * ((REAL)3 - (REAL)2 * u); }                              \
    static REAL NAME##_noise(REAL t, uint32_t key)                                                             \
    {                                                                                                          \
        const REAL x = t + NAME##_phase(key), n = FLOOR(x), f = x - n;                                         \
        const uint32_t i = (uint32_t)(int32_t)n;                                                               \
        const REAL a = NAME##_unit(drawn(key, i)), b = NAME##_unit(drawn(key, i + 1u));                        \
        return a + (b - a) * (f * f * f * (f * ((REAL)6 * f - (REAL)15) + (REAL)10));                          \
    }                                                                                                          \
    static REAL NAME##_swell(REAL t)                                                                           \
    {                                                                                                          \
        const REAL x = t - FLOOR(t / (REAL)4.5) * (REAL)4.5;                                                   \
        if (x < (REAL)1.2) return (REAL)0.2 + (REAL)0.8 * NAME##_smooth(x / (REAL)1.2);                        \
        if (x < (REAL)3) return (REAL)1 - (REAL)0.4 * ((x - (REAL)1.2) / (REAL)1.8);                           \
        return (REAL)0.6 - (REAL)0.4 * NAME##_smooth((x - (REAL)3) / (REAL)1.5);                               \
    }                                                                                                          \
    static __attribute__((noinline)) void NAME##_holding(REAL t, uint32_t seed, plain_lamp *out)               \
    {                                                                                                          \
        const uint32_t light = drawn(seed, 1u);                                                                \
        for (uint32_t n = 0; n < LAMPS; ++n) {                                                                 \
            const uint32_t key = light ^ mix(n);                                                               \
            const uint32_t i = (uint32_t)(int32_t)FLOOR(t * (REAL)5 + NAME##_phase(key));                      \
            out[n].intensity = (float)((REAL)400 * ((REAL)0.4 + (REAL)0.6 * NAME##_unit(drawn(key, i))));      \
        }                                                                                                      \
    }                                                                                                          \
    static __attribute__((noinline)) void NAME##_drifting(REAL t, uint32_t seed, plain_lamp *out)              \
    {                                                                                                          \
        const uint32_t light = drawn(seed, 2u);                                                                \
        for (uint32_t n = 0; n < LAMPS; ++n) {                                                                 \
            const REAL level = (REAL)0.4 + (REAL)0.6 * NAME##_noise(t, light ^ mix(n));                        \
            out[n].intensity = (float)((REAL)400 * level);                                                     \
        }                                                                                                      \
    }                                                                                                          \
    static __attribute__((noinline)) void NAME##_swelling(REAL t, uint32_t seed, plain_lamp *out)              \
    {                                                                                                          \
        const uint32_t light = drawn(seed, 3u), other = drawn(seed, 4u);                                       \
        for (uint32_t n = 0; n < LAMPS; ++n) {                                                                 \
            const REAL level = (REAL)0.4 + (REAL)0.6 * NAME##_noise(t, light ^ mix(n));                        \
            const REAL swell = NAME##_swell(t + (REAL)4.5 * NAME##_phase(other ^ mix(n)));                     \
            out[n].intensity = (float)((REAL)400 * swell * level);                                             \
        }                                                                                                      \
    }                                                                                                          \
    static __attribute__((noinline)) void NAME##_fading(REAL t, uint32_t seed, plain_lamp *out)                \
    {                                                                                                          \
        const uint32_t light = drawn(seed, 5u);                                                                \
        const REAL w = t / (REAL)4, part = w < (REAL)0 ? (REAL)0 : w > (REAL)1 ? (REAL)1 : w;                  \
        const REAL fade = (REAL)80 + (REAL)160 * part;                                                         \
        for (uint32_t n = 0; n < LAMPS; ++n) {                                                                 \
            const REAL turn = t / (REAL)2 + NAME##_phase(light ^ mix(n));                                      \
            const REAL wave = (REAL)0.7 + (REAL)0.3 * SIN((REAL)(2 * PI) * turn);                              \
            out[n].intensity = (float)(fade * wave);                                                           \
        }                                                                                                      \
    }

PLAIN(doubles, double, floor, sin, 3.14159265358979323846)
PLAIN(floats, float, floorf, sinf, 3.14159265358979323846f)

static plain_lamp plain[LAMPS];
static tide_gauge_holding holding[LAMPS];
static tide_gauge_drifting drifting[LAMPS];
static tide_gauge_swelling swelling[LAMPS];
static tide_gauge_fading fading[LAMPS];
static tide_gauge_softly softly[LAMPS];
static tide_gauge_eased eased[LAMPS];
static tide_gauge_eased_both eased_both[LAMPS];
static tide_gauge_eased_in eased_in[LAMPS];

static double seconds(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (double)now.tv_sec + 1e-9 * (double)now.tv_nsec;
}

/* Frames of all four, each 20 times in turn; the best time of each is printed, in nanoseconds a lamp. */
#define TIMED(WHAT, CALL)                                                   \
    do {                                                                    \
        double best = 1e9;                                                  \
        for (int turn = 0; turn < 20; ++turn) {                             \
            const double from = seconds();                                  \
            for (uint32_t frame = 0; frame < frames; ++frame) {             \
                const double t = 1.0 + (double)frame * 0.0166;              \
                (void)t;                                                    \
                CALL;                                                       \
                kept += plain[frame % LAMPS].intensity;                     \
            }                                                               \
            const double passed = (seconds() - from) / frames / LAMPS;      \
            if (passed < best) best = passed;                               \
        }                                                                   \
        printf("%s %.4f\n", WHAT, 1e9 * best);                              \
    } while (0)

#define EXPORTED(LIGHT)                                                                                   \
    TIMED(#LIGHT " exported",                                                                             \
        (tide_gauge_advance(&run, t), tide_gauge_fill_##LIGHT(&run, 0, LAMPS, LIGHT),                     \
            kept += LIGHT[frame % LAMPS].intensity))

#define ALL(LIGHT)                                                                                        \
    EXPORTED(LIGHT);                                                                                      \
    TIMED(#LIGHT " double", doubles_##LIGHT(t, 7u, plain));                                               \
    TIMED(#LIGHT " float", floats_##LIGHT((float)t, 7u, plain))

int main(int argc, char **argv)
{
    const uint32_t frames = argc > 1 ? (uint32_t)atoi(argv[1]) : 400u;
    double kept = 0.0;
    tide_gauge_run run = tide_gauge_start(7u);
    tide_gauge_advance(&run, 0.5);
    tide_gauge_fire_rises(&run);
    ALL(holding);
    ALL(drifting);
    ALL(swelling);
    ALL(fading);
    EXPORTED(softly);
    EXPORTED(eased);
    EXPORTED(eased_both);
    EXPORTED(eased_in);
    return kept == 0.123 ? 1 : 0;
}
