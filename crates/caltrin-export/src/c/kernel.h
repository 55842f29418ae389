#include <stdint.h>
#include <math.h>
#include <string.h>

//: scramble
/* Mixes 32 bits; one-to-one. */
static inline uint32_t caltrin_scramble(uint32_t x)
{
    x ^= x >> 16;
    x *= 0x21f0aaadu;
    x ^= x >> 15;
    x *= 0x735a2d97u;
    return x ^ (x >> 15);
}

//: chance_key
/* The key of one place of chance under a seed, or under another key. */
static inline uint32_t caltrin_chance_key(uint32_t seed, uint32_t place)
{
    return caltrin_scramble((caltrin_scramble(seed + 0x9e3779b9u) ^ place) + 0x85ebca6bu);
}

//: lamp_key
/* The key of one lamp of an array; lamp 0 keeps the key. */
static inline uint32_t caltrin_lamp_key(uint32_t key, uint32_t index)
{
    return key ^ caltrin_scramble(index);
}

//: draw
/* The n-th draw of a key. */
static inline uint32_t caltrin_draw(uint32_t key, uint32_t n)
{
    return caltrin_scramble(caltrin_scramble(n + key) ^ key);
}

//: to_unit
/* 0..1, 1 excluded, in steps of 2^-24. */
static inline double caltrin_to_unit(uint32_t bits)
{
    return (double)(bits >> 8) * (1.0 / 16777216.0);
}

//: round_down
/* The largest whole number not above x, for |x| below 2^63. */
static inline double caltrin_round_down(double x)
{
    const double r = (double)(int64_t)x;
    return r > x ? r - 1.0 : r;
}

//: cell_index
/* A whole number as a wrapping 32-bit index. */
static inline uint32_t caltrin_cell_index(double n)
{
    return (uint32_t)(int64_t)n;
}

//: chance_phase
/* Where a chance begins along its own cells, 0..1. */
static inline double caltrin_chance_phase(uint32_t key)
{
    return caltrin_to_unit(caltrin_scramble(key + 0x9e3779b9u));
}

//: within
static inline double caltrin_within(double v, double lo, double hi)
{
    v = v < lo ? lo : v;
    return v > hi ? hi : v;
}

//: between
/* lo at 0, hi at 1, never outside of the two. */
static inline double caltrin_between(double lo, double hi, double s)
{
    const double v = lo + (hi - lo) * s;
    return lo <= hi ? caltrin_within(v, lo, hi) : caltrin_within(v, hi, lo);
}

//: least
static inline double caltrin_least(double a, double b)
{
    return b < a ? b : a;
}

//: greatest
static inline double caltrin_greatest(double a, double b)
{
    return b > a ? b : a;
}

//: share
static inline double caltrin_share(double part, double whole)
{
    return whole > 0.0 ? part / whole : 0.0;
}

//: held_level
/* A level 0..1 drawn again after random times between a and b seconds:
   rate = 2 / (a + b), jitter = (b - a) / (2 (a + b)). */
static inline double caltrin_held_level(double t, uint32_t key, double rate, double jitter)
{
    const double x = t * rate + caltrin_chance_phase(key);
    const double n = caltrin_round_down(x + 0.5);
    const uint32_t i = caltrin_cell_index(n);
    const uint32_t h = caltrin_draw(key, i);
    const double drawn = jitter * (2.0 * caltrin_to_unit(h) - 1.0);
    const double fixed = h >> 31 ? jitter : -jitter;
    const double edge = i & 1u ? fixed : drawn;
    const uint32_t cell = x - n >= edge ? i : i - 1u;
    return caltrin_to_unit(caltrin_draw(key ^ 0x68e31da4u, cell));
}

//: ease_smooth
static inline double caltrin_ease_smooth(double u)
{
    const double s = u * u * (3.0 - 2.0 * u);
    return s > 1.0 ? 1.0 : s;
}

//: ease_bezier
/* CSS cubic-bezier(x1, y1, x2, y2) at u: Laguerre's method inside a bracket. */
static inline double caltrin_ease_bezier(double u, double x1, double y1, double x2, double y2)
{
    const double cx = 3.0 * x1, bx = 3.0 * (x2 - x1) - cx, ax = 1.0 - cx - bx;
    const double cy = 3.0 * y1, by = 3.0 * (y2 - y1) - cy, ay = 1.0 - cy - by;
    double lo = 0.0, hi = 1.0, s = u;
    int step;
    if (u <= 0.0) return 0.0;
    if (u >= 1.0) return 1.0;
    for (step = 0; step < 8; ++step) {
        const double e = ((ax * s + bx) * s + cx) * s - u;
        const double d = (3.0 * ax * s + 2.0 * bx) * s + cx;
        const double q = 4.0 * d * d - 6.0 * e * (6.0 * ax * s + 2.0 * bx);
        const double w = s - 3.0 * e / (d + sqrt(q > 0.0 ? q : 0.0));
        if (e == 0.0) break;
        if (e < 0.0) lo = s; else hi = s;
        s = lo <= w && w <= hi ? w : 0.5 * (lo + hi);
    }
    return ((ay * s + by) * s + cy) * s;
}

//: wrap_time
/* Where t stands in a turn that starts again and again. */
static inline double caltrin_wrap_time(double t, double period)
{
    const double x = t - caltrin_round_down(t / period) * period;
    if (x < 0.0) return x + period;
    return x >= period ? x - period : x;
}

//: fold_time
/* Where t stands in a turn that plays there and back. */
static inline double caltrin_fold_time(double t, double period)
{
    const double x = caltrin_wrap_time(t, 2.0 * period);
    return x > period ? 2.0 * period - x : x;
}

//: clean_moment
/* Not-a-number is 0; nothing lies beyond 1e9 s. The bits are asked, since under some options a
   compiler takes for granted that nothing is not-a-number. */
static inline double caltrin_clean_moment(double t)
{
    uint64_t bits;
    memcpy(&bits, &t, sizeof bits);
    if ((bits & 0x7fffffffffffffffu) > 0x7ff0000000000000u) return 0.0;
    if (t >= -1e-30 && t <= 1e-30) return 0.0;
    return caltrin_within(t, -1e9, 1e9);
}

//: to_single
/* No negative zero, no subnormal. */
static inline float caltrin_to_single(double v)
{
    return (float)(v < 1e-30 && v > -1e-30 ? 0.0 : v);
}

//: to_output
/* No negative zero, no subnormal, no infinity. */
static inline float caltrin_to_output(double v)
{
    v = v < 1e-30 && v > -1e-30 ? 0.0 : v;
    return (float)caltrin_within(v, -3.4028234663852886e38, 3.4028234663852886e38);
}
//: end
