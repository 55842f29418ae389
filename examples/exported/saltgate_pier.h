/* Saltgate pier. Made by caltrin from pier.caltrin.

   Change the lightbook and export again rather than this file.

   One header, C99, nothing but five headers of the standard library. No heap, no globals.
   A run is a plain value of 2752 bytes: copy it, or call save() for a saved game.
   Values are computed when they are read, at any moment, in any order, at the same cost.

   Host loop:

       saltgate_pier_run run = saltgate_pier_start(41u);
       for (;;) {
           saltgate_pier_step(&run, seconds_of_this_frame);
           saltgate_pier_mast lamp = saltgate_pier_read_mast(&run, 0);
       }
*/
#ifndef CALTRIN_SALTGATE_PIER_H
#define CALTRIN_SALTGATE_PIER_H

#include <assert.h>
#include <math.h>
#include <stdbool.h>
#include <stdint.h>
#include <string.h>

/* Exact double arithmetic, whatever the options of the project. Some targets of clang have no float_control. */
#if defined(__FLT_EVAL_METHOD__) && (__FLT_EVAL_METHOD__ < 0 || __FLT_EVAL_METHOD__ == 2)
#error "this file needs plain double arithmetic: compile with -msse2 -mfpmath=sse"
#endif
#if defined(__clang__) && (defined(__FAST_MATH__) || (defined(__FINITE_MATH_ONLY__) && __FINITE_MATH_ONLY__))
#error "this file needs exact arithmetic: compile it without -ffast-math and -ffinite-math-only"
#endif
/* A constant such as 0.1 is a double: compile without -fsingle-precision-constant. */
typedef char saltgate_pier_constants_are_double[sizeof(0.1) == sizeof(double) ? 1 : -1];
#if defined(__clang__)
#pragma clang diagnostic push
#pragma clang diagnostic ignored "-Wignored-pragmas"
#pragma float_control(push)
#pragma float_control(precise, on)
#pragma clang diagnostic pop
#pragma STDC FP_CONTRACT OFF
#elif defined(__GNUC__)
#pragma GCC push_options
#pragma GCC optimize("no-fast-math", "no-finite-math-only", "fp-contract=off")
#pragma GCC optimize("no-trapping-math", "no-math-errno")
#elif defined(_MSC_VER)
#pragma float_control(push)
#pragma float_control(precise, on)
#pragma fp_contract(off)
#endif

/* What the host calls is never inlined into code that is compiled with other options. */
#if defined(__GNUC__) || defined(__clang__)
#define SALTGATE_PIER_API static __attribute__((noinline, unused))
#elif defined(_MSC_VER)
#define SALTGATE_PIER_API static __declspec(noinline)
#else
#define SALTGATE_PIER_API static
#endif

/* Choice, set by the game: fair, overcast, with a transition of 20.0 s -- pier.caltrin:14: choice weather
   { fair, overcast } over 20s */
enum { SALTGATE_PIER_WEATHER_FAIR = 0 };
enum { SALTGATE_PIER_WEATHER_OVERCAST = 1 };

typedef struct saltgate_pier_run {
    double now; /* s since the run's start */
    /* s, the earliest moment at which something can occur by itself; recomputed after each action of the
       game */
    double due;
    double clock_hour; /* h, the clock when it was last set */
    double clock_days; /* number of days at that time */
    double clock_since; /* s, when that occurred */
    double clock_rate; /* its rate, 1 as in the book */
    double weather_since; /* s, when it was chosen */
    double weather_from[2]; /* how much each option counted then */
    double mist; /* number */
    double swell; /* number */
    double season; /* number */
    double haul; /* number */
    double rocket_place[3]; /* its latest value */
    double rocket_tint[3]; /* its latest value */
    double horn_at; /* s, its position at that time */
    double horn_since; /* s, when it was at that position */
    double horn_changed; /* s, when it was started, stopped or set */
    double ratchet_at; /* s, its position at that time */
    double ratchet_since; /* s, when it was at that position */
    double ratchet_rate; /* its speed since then; negative until it is known */
    double power_since; /* s, when it last changed */
    double power_from; /* its level at that time */
    double warning_mode; /* the active mode, counted from 0 */
    double warning_entered; /* s, when it was entered */
    double warning_way; /* the index of its current crossfade */
    double warning_from_watch; /* its weight at that time */
    double warning_from_alarm; /* its weight at that time */
    double warning_rule1_since; /* s, when that became true */
    double blare_horn_follow_0_from; /* the level when the sound was started, stopped or set */
    double blast_passed; /* s, the position in the sound after which the next one is */
    double notice_moments[32]; /* s, when each was sent */
    double notice_packed[32]; /* the packed notice */
    double notice_positions[32][3]; /* the position of its lamp at that time */
    double notice_first; /* the index of the oldest */
    double notice_count; /* number of queued notices */
    double notice_dropped; /* number of dropped notices */
    double notice0_sent; /* number of times sent */
    double notice_value_loud[32]; /* that value of each notice */
    double notice0_text; /* the index of its latest text */
    double fog_lamp_fault_last[3]; /* s, when it last occurred */
    double fog_lamp_fault_count[3]; /* number of occurrences */
    double notice1_sent[3]; /* number of times sent */
    double notice_value_within[32]; /* that value of each notice */
    double notice1_text[3]; /* the index of its latest text */
    double quay_cock[12]; /* number */
    double board_loudness[3]; /* number */
    double docking_started; /* s, when it started */
    double gate_opens_last; /* s, when it last occurred */
    double star_shell_born[6]; /* s, when it began */
    double star_shell_length[6]; /* s, its lifetime */
    double star_shell_place[6][3]; /* its value */
    double star_shell_tint[6][3]; /* its value */
    double star_shell_count; /* number of occurrences of its event */
    uint32_t seed; /* of all its chances */
    uint32_t weather; /* the option chosen */
    bool horn_plays; /* whether it plays */
    bool power_on; /* whether it is on or turning on */
    bool warning_rule1_seen; /* whether the condition was true */
} saltgate_pier_run;

/* Largest moment that a run can reach, in seconds either side of its start (about 31 years). */
static const double SALTGATE_PIER_LAST_MOMENT = 1e9;
/* Values nearer to zero than this are zero when they leave the kernel. */
static const double SALTGATE_PIER_SMALLEST = 1e-30;
/* Later than every moment of a run. */
static const double SALTGATE_PIER_NEVER = 2e9;
/* Separates the draws of levels from those of edges. */
static const uint32_t SALTGATE_PIER_LEVELS = 0x68e31da4u;
/* From the key of one octave to that of the next; also separates the draws of phases. */
static const uint32_t SALTGATE_PIER_OCTAVE = 0x9e3779b9u;
/* Last moment of a day, in hours. */
static const double SALTGATE_PIER_LAST_HOUR = 23.999999999999996;
/* How often a condition without a solvable moment is sampled, in a second. */
static const double SALTGATE_PIER_LOOKS = 120.0;

/* The largest whole number not above x, for |x| below 2^63. */
static inline double saltgate_pier_round_down(double x)
{
    const double r = (double)(int64_t)x;
    return r > x ? r - 1.0 : r;
}

/* Whether v is not a number, by its bits: under some options compilers assume that nothing is. */
static inline bool saltgate_pier_is_nan(double v)
{
    uint64_t bits;
    memcpy(&bits, &v, sizeof bits);
    return (bits & 0x7fffffffffffffffu) > 0x7ff0000000000000u;
}

/* Whether v is a finite number, by its bits: under some options compilers assume that all are. */
static inline bool saltgate_pier_is_finite(double v)
{
    uint64_t bits;
    memcpy(&bits, &v, sizeof bits);
    return (bits & 0x7ff0000000000000u) != 0x7ff0000000000000u;
}

/* A whole number as a 32-bit index that wraps. */
static inline uint32_t saltgate_pier_cell_index(double n)
{
    return (uint32_t)(int64_t)n;
}

/* The upper 32 bits of a double. */
static inline uint32_t saltgate_pier_high_bits(double v)
{
    uint64_t bits;
    memcpy(&bits, &v, sizeof bits);
    return (uint32_t)(bits >> 32);
}

/* The lower 32 bits of a double. */
static inline uint32_t saltgate_pier_low_bits(double v)
{
    uint64_t bits;
    memcpy(&bits, &v, sizeof bits);
    return (uint32_t)bits;
}

/* The double that has these bits. */
static inline double saltgate_pier_from_bits(uint32_t high, uint32_t low)
{
    const uint64_t bits = (uint64_t)high << 32 | low;
    double v;
    memcpy(&v, &bits, sizeof v);
    return v;
}

/* Mixes 32 bits; one-to-one, and 0 stays 0. */
static inline uint32_t saltgate_pier_scramble(uint32_t x)
{
    x ^= x >> 16;
    x *= 0x21f0aaadu;
    x ^= x >> 15;
    x *= 0x735a2d97u;
    return x ^ (x >> 15);
}

/* Key of one random place under a seed, or under another key. */
static inline uint32_t saltgate_pier_chance_key(uint32_t seed, uint32_t place)
{
    return saltgate_pier_scramble((saltgate_pier_scramble(seed + SALTGATE_PIER_OCTAVE) ^ place)
            + 0x85ebca6bu);
}

/* Key of one lamp of an array. Lamp 0 keeps the key. */
static inline uint32_t saltgate_pier_lamp_key(uint32_t key, uint32_t lamp)
{
    return key ^ saltgate_pier_scramble(lamp);
}

/* The `n`-th random draw of a key: 32 even bits. */
static inline uint32_t saltgate_pier_draw(uint32_t key, uint32_t n)
{
    return saltgate_pier_scramble(saltgate_pier_scramble(n + key) ^ key);
}

/* A draw as a number from 0 to 1 (excluded), in steps of 2^-24. */
static inline double saltgate_pier_to_unit(uint32_t bits)
{
    return (double)(bits >> 8) * (1.0 / 16777216.0);
}

/* The smaller of two numbers. */
static inline double saltgate_pier_min(double a, double b)
{
    return b < a ? b : a;
}

/* The larger of two numbers. */
static inline double saltgate_pier_max(double a, double b)
{
    return b > a ? b : a;
}

/* `v` limited to `lo..hi`. */
static inline double saltgate_pier_clamp(double v, double lo, double hi)
{
    const double above = v < lo ? lo : v;
    return above > hi ? hi : above;
}

/* `lo` at 0, `hi` at 1, and never outside of the two. */
static inline double saltgate_pier_lerp(double lo, double hi, double s)
{
    const double v = lo + (hi - lo) * s;
    return lo <= hi ? saltgate_pier_clamp(v, lo, hi) : saltgate_pier_clamp(v, hi, lo);
}

/* A part of a whole; 0 of a whole that is not above 0. */
static inline double saltgate_pier_share(double part, double whole)
{
    return whole > 0.0 ? part / whole : 0.0;
}

/* The square root of `x`; 0 of what is below 0. */
static inline double saltgate_pier_root(double x)
{
    const double kept = x > 0.0 ? x : 0.0;
    return sqrt(kept);
}

/* A number without its sign. */
static inline double saltgate_pier_absolute(double x)
{
    return x < 0.0 ? -x : x;
}

/* Where the cells of a key begin, from 0 to 1. */
static inline double saltgate_pier_chance_phase(uint32_t key)
{
    return saltgate_pier_to_unit(saltgate_pier_scramble(key + SALTGATE_PIER_OCTAVE));
}

/* Where cell `i` of a held level begins, from `i`: at most `jitter` either way. */
static inline double saltgate_pier_cell_edge(uint32_t key, uint32_t i, double jitter)
{
    const uint32_t bits = saltgate_pier_draw(key, i);
    const double drawn = jitter * (2.0 * saltgate_pier_to_unit(bits) - 1.0);
    const double steady = (bits >> 31) != 0u ? jitter : -jitter;
    return (i & 1u) != 0u ? steady : drawn;
}

/* A level from 0 to 1 that is drawn again after random times between `a` and `b` seconds: `rate` is 2 / (a
   + b), `jitter` is (b - a) / (2 (a + b)). */
static inline double saltgate_pier_held_level(double t, uint32_t key, double rate, double jitter)
{
    const double x = t * rate + saltgate_pier_chance_phase(key);
    const double n = saltgate_pier_round_down(x + 0.5);
    const uint32_t i = saltgate_pier_cell_index(n);
    const uint32_t early = x - n < saltgate_pier_cell_edge(key, i, jitter) ? 1u : 0u;
    return saltgate_pier_to_unit(saltgate_pier_draw(key ^ SALTGATE_PIER_LEVELS, i - early));
}

/* A level from 0 to 1 that is drawn again `rate` times a second: `held_level` without jitter. */
static inline double saltgate_pier_steady_level(double t, uint32_t key, double rate)
{
    const uint32_t i = saltgate_pier_cell_index(saltgate_pier_round_down(t * rate
                + saltgate_pier_chance_phase(key)));
    return saltgate_pier_to_unit(saltgate_pier_draw(key ^ SALTGATE_PIER_LEVELS, i));
}

/* Soft start and end, from 0 to 1. */
static inline double saltgate_pier_ease_smooth(double u)
{
    const double s = u * u * (3.0 - 2.0 * u);
    return s > 1.0 ? 1.0 : s;
}

/* Places from 0 to 1 drawn apart at both ends, so that what starts or ends like a root goes on evenly. */
static inline double saltgate_pier_spread_ends(double u)
{
    const bool before = u < 0.5;
    const double side = before ? u : 1.0 - u;
    const double v = 0.5 * saltgate_pier_root(2.0 * side);
    return before ? v : 1.0 - v;
}

/* An easing at `u`, 0 to 1, that is kept as polynomials of the fifth degree: six numbers for each of
   `pieces` of one length, the highest power first. */
static inline double saltgate_pier_ease_baked(double u, const double *table, uint32_t pieces)
{
    const double x = u * (double)pieces;
    const uint32_t cell = (uint32_t)x;
    const uint32_t piece = cell < pieces ? cell : pieces - 1;
    const double f = x - (double)piece;
    const uint32_t at = 6 * piece;
    double s = table[at];
    s = s * f + table[at + 1];
    s = s * f + table[at + 2];
    s = s * f + table[at + 3];
    s = s * f + table[at + 4];
    return s * f + table[at + 5];
}

/* Position of `t` in a turn of `period` seconds that starts again and again. */
static inline double saltgate_pier_wrap_time(double t, double period)
{
    const double x = t - saltgate_pier_round_down(t / period) * period;
    const double under = x >= period ? x - period : x;
    return x < 0.0 ? x + period : under;
}

/* Position of `t` in a turn of `period` seconds that plays there and back. */
static inline double saltgate_pier_fold_time(double t, double period)
{
    const double x = saltgate_pier_wrap_time(t, 2.0 * period);
    return x > period ? 2.0 * period - x : x;
}

/* A level from 0 to 1 that passes smoothly through draws at whole numbers `x`. */
static inline double saltgate_pier_noise(double x, uint32_t key)
{
    const double n = saltgate_pier_round_down(x);
    const double f = x - n;
    const uint32_t i = saltgate_pier_cell_index(n);
    const double eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    const double s = eased > 1.0 ? 1.0 : eased;
    const double a = saltgate_pier_to_unit(saltgate_pier_draw(key, i));
    const double b = saltgate_pier_to_unit(saltgate_pier_draw(key, i + 1u));
    return a + (b - a) * s;
}

/* A level from 0 to 1 that drifts smoothly: `rate` draws a second, and for each octave after the first one
   of half the depth and twice the rate. */
static inline double saltgate_pier_drift_level(double t, uint32_t key, double rate, uint32_t octaves)
{
    double x = t * rate + saltgate_pier_chance_phase(key);
    uint32_t k = key;
    double sum = saltgate_pier_noise(x, k);
    double total = 1.0;
    for (uint32_t pass = 1; pass < octaves; ++pass) {
        x = 2.0 * x + 0.37;
        k += SALTGATE_PIER_OCTAVE;
        sum = 2.0 * sum + saltgate_pier_noise(x, k);
        total = 2.0 * total + 1.0;
    }
    return sum / total;
}

/* As `held_level`, but each level is reached softly over a `part` of its time. */
static inline double saltgate_pier_soft_level(double t, uint32_t key, double rate, double jitter, double part)
{
    const double x = t * rate + saltgate_pier_chance_phase(key);
    const double n = saltgate_pier_round_down(x + 0.5);
    const uint32_t nearest = saltgate_pier_cell_index(n);
    const double since_nearest = x - n - saltgate_pier_cell_edge(key, nearest, jitter);
    const uint32_t i = since_nearest >= 0.0 ? nearest : nearest - 1u;
    const double edge = saltgate_pier_cell_edge(key, i, jitter);
    const double passed = since_nearest >= 0.0 ? since_nearest : x - n + 1.0 - edge;
    const double soft = part * (1.0 + saltgate_pier_cell_edge(key, i + 1u, jitter) - edge);
    const double to = saltgate_pier_to_unit(saltgate_pier_draw(key ^ SALTGATE_PIER_LEVELS, i));
    const double from = saltgate_pier_to_unit(saltgate_pier_draw(key ^ SALTGATE_PIER_LEVELS, i - 1u));
    const double way = from + (to - from) * saltgate_pier_ease_smooth(passed / soft);
    return passed >= soft ? to : way;
}

/* When the `n`-th burst or pause of a turn ends, in seconds, by running sums of even draws. */
static inline double saltgate_pier_burst_edge(uint32_t n, double on_lo, double on_hi, double off_lo,
    double off_hi, const double *on_sums, const double *off_sums)
{
    const uint32_t begun = (n + 1) / 2;
    const uint32_t ended = n / 2;
    const double on = on_lo * (double)begun + (on_hi - on_lo) * on_sums[begun];
    return on + (off_lo * (double)ended + (off_hi - off_lo) * off_sums[ended]);
}

/* 1 while a burst lasts, else 0. Bursts last `on_lo` to `on_hi` seconds, the pauses after them `off_lo` to
   `off_hi`; the running sums have an entry more than there are `pairs`. */
static inline double saltgate_pier_burst_level(double t, uint32_t key, double on_lo, double on_hi,
    double off_lo, double off_hi, const double *on_sums, const double *off_sums, uint32_t pairs)
{
    const double whole = saltgate_pier_burst_edge(2 * pairs, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    const double x = t / whole + saltgate_pier_chance_phase(key);
    const double n = saltgate_pier_round_down(x);
    const uint32_t first = 2 * (saltgate_pier_draw(key, saltgate_pier_cell_index(n)) % pairs);
    const double passed = (x - n) * whole
        + saltgate_pier_burst_edge(first, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    const double u = passed >= whole ? passed - whole : passed;
    uint32_t last = 0;
    uint32_t step = pairs;
    while (step > 0) {
        if (u >= saltgate_pier_burst_edge(last + step, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums)) {
            last += step;
        }
        step = step / 2;
    }
    return last % 2 == 0 ? 1.0 : 0.0;
}

/* The level, 0 to 1, at position `x` of an envelope with entries 0 to `last`: linear between positions
   (upper 24 bits) and levels in 1/255 (lower 8 bits); the ends go on. */
static inline double saltgate_pier_envelope_level(double x, const uint32_t *envelope, uint32_t last)
{
    uint32_t low = 0;
    uint32_t high = last;
    while (high - low > 1) {
        const uint32_t middle = (low + high) / 2;
        if ((double)(envelope[middle] >> 8) <= x) {
            low = middle;
        } else {
            high = middle;
        }
    }
    const double from = (double)(envelope[low] >> 8);
    const double to = (double)(envelope[high] >> 8);
    const double a = (double)(envelope[low] & 255u);
    const double b = (double)(envelope[high] & 255u);
    return saltgate_pier_lerp(a, b, saltgate_pier_clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0;
}

/* The first of the rising positions 0 to `last` that lies after `x`, or never. */
static inline double saltgate_pier_next_place(double x, const double *places, uint32_t last)
{
    uint32_t low = 0;
    uint32_t high = last + 1;
    while (low < high) {
        const uint32_t middle = (low + high) / 2;
        if (places[middle] > x) {
            high = middle;
        } else {
            low = middle + 1;
        }
    }
    if (low <= last) return places[low];
    return SALTGATE_PIER_NEVER;
}

/* One coordinate of a displacement within a ball of radius 1, from three numbers in -1..1 of which `a` is
   that coordinate's. */
static inline double saltgate_pier_in_ball(double a, double b, double c)
{
    const double bb = b * b;
    const double cc = c * c;
    return a * sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
}

/* One coordinate of a direction of length 1; `still` where there is no direction. */
static inline double saltgate_pier_heading(double part, double x, double y, double z, double still)
{
    const double length = sqrt(x * x + y * y + z * z);
    return length > 1e-9 ? part / length : still;
}

/* The sine of `x` turns, to 4e-14. */
static inline double saltgate_pier_sine_of_turns(double x)
{
    const double turn = x - saltgate_pier_round_down(x + 0.5);
    const double upper = turn > 0.25 ? 0.5 - turn : turn;
    const double r = upper < -0.25 ? -0.5 - upper : upper;
    const double q = r * r;
    const double high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
    const double low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
    return saltgate_pier_clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0);
}

/* A sine wave from 0 to 1, lowest at whole turns `x`. */
static inline double saltgate_pier_sine_level(double x)
{
    return 0.5 + 0.5 * saltgate_pier_sine_of_turns(x - 0.25);
}

/* A triangle wave from 0 to 1, lowest at whole turns `x`. */
static inline double saltgate_pier_triangle_level(double x)
{
    const double r = x - saltgate_pier_round_down(x);
    return r < 0.5 ? 2.0 * r : 2.0 - 2.0 * r;
}

/* Whole days in a number of hours from midnight on; below 0 before it. */
static inline double saltgate_pier_days_of(double hours)
{
    return saltgate_pier_round_down(hours / 24.0);
}

/* Hour of the day, 0 to 24 (excluded), after a number of hours from midnight on. */
static inline double saltgate_pier_hour_of(double hours)
{
    return saltgate_pier_clamp(hours - 24.0 * saltgate_pier_days_of(hours), 0.0, SALTGATE_PIER_LAST_HOUR);
}

/* What is left of a fall of `fall` hours that began `late` hours ago: 1 to 0. */
static inline double saltgate_pier_hours_left(double late, double fall)
{
    return late < fall ? 1.0 - late / fall : 0.0;
}

/* 0 outside and 1 inside of a span of hours: it opens from `start` on, for `rise` hours, and closes from
   `end` on, for `fall` hours. */
static inline double saltgate_pier_hours_level(double hour, double start, double rise, double end,
    double fall)
{
    const double passed = saltgate_pier_hour_of(hour - start);
    const double open = saltgate_pier_hour_of(end - start);
    if (passed >= rise) return passed < open ? 1.0 : saltgate_pier_hours_left(passed - open, fall);
    const double risen = passed / rise;
    if (passed >= open) {
        const double lost = 1.0 - saltgate_pier_hours_left(passed - open, fall);
        return risen > lost ? risen - lost : 0.0;
    }
    const double level = risen + saltgate_pier_hours_left(passed - open + 24.0, fall);
    return level < 1.0 ? level : 1.0;
}

/* The angle of the point (x, y) from the x axis toward the y axis, in degrees above -180 to 180; 0 at the
   origin. */
static inline double saltgate_pier_arc_tangent(double y, double x)
{
    const double ax = x < 0.0 ? -x : x;
    const double ay = y < 0.0 ? -y : y;
    const bool steep = ay > ax;
    const double shorter = steep ? ax : ay;
    const double longer = steep ? ay : ax;
    if (longer == 0.0) return 0.0;
    const double ratio = shorter / longer;
    const bool steeper = ratio > 0.414213562373095;
    const double z = steeper ? (ratio - 1.0) / (ratio + 1.0) : ratio;
    const double u = z * z;
    const double a = 2.878903358695536 + u * -1.4504271731546372;
    const double b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
    const double c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
    const double d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
    const double p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
    const double part = steeper ? 45.0 + z * p : z * p;
    const double half = steep ? 90.0 - part : part;
    const double angle = x < 0.0 ? 180.0 - half : half;
    return y < 0.0 ? -angle : angle;
}

/* The angle whose sine is `x`, -90 to 90 degrees; `x` is limited to -1..1. */
static inline double saltgate_pier_arc_sine(double x)
{
    const double kept = saltgate_pier_clamp(x, -1.0, 1.0);
    return saltgate_pier_arc_tangent(kept, sqrt((1.0 - kept) * (1.0 + kept)));
}

/* A compass direction, 0 (north) to 360 degrees over east. */
static inline double saltgate_pier_compass(double east, double north)
{
    const double angle = saltgate_pier_arc_tangent(east, north);
    return angle < 0.0 ? angle + 360.0 : angle;
}

/* Turns of the sun on its way through the year, from the spring equinox: `days` after noon of 1 January
   2000 in UT. */
static inline double saltgate_pier_sun_way(double days)
{
    const double anomaly = 0.9931333333333333 + days * 0.002737778611111111;
    const double mean = 0.7790555555555555 + days * 0.0027379093333333333;
    const double ahead = saltgate_pier_sine_of_turns(anomaly) * 0.005319444444444444;
    return mean + ahead + saltgate_pier_sine_of_turns(anomaly + anomaly) * 5.555555555555556e-5;
}

/* Tilt of the earth's axis in turns, `days` as for `sun_way`. */
static inline double saltgate_pier_axis_tilt(double days)
{
    return 0.06510833333333332 - days * 1.111111111e-9;
}

/* How far the sky has turned over a longitude, in turns, `days` as for `sun_way`. */
static inline double saltgate_pier_sky_turn(double days, double longitude)
{
    return 0.77905727325 + days * 1.002737909350795 + longitude / 360.0;
}

/* East (0), up (1) or south (2) of the direction to the sun, or to what runs `ahead` turns before it
   (Michalsky 1988). */
static inline double saltgate_pier_sky_part(double part, double days, double ahead, double latitude,
    double longitude)
{
    const double way = saltgate_pier_sun_way(days) + ahead;
    const double tilt = saltgate_pier_axis_tilt(days);
    const double across = saltgate_pier_sine_of_turns(way);
    const double x = saltgate_pier_sine_of_turns(way + 0.25);
    const double y = saltgate_pier_sine_of_turns(tilt + 0.25) * across;
    const double z = saltgate_pier_sine_of_turns(tilt) * across;
    const double sky = saltgate_pier_sky_turn(days, longitude);
    const double sine = saltgate_pier_sine_of_turns(sky);
    const double cosine = saltgate_pier_sine_of_turns(sky + 0.25);
    if (part == 0.0) return saltgate_pier_clamp(y * cosine - x * sine, -1.0, 1.0);
    const double meridian = x * cosine + y * sine;
    const double low = saltgate_pier_sine_of_turns(latitude / 360.0);
    const double high = saltgate_pier_sine_of_turns(latitude / 360.0 + 0.25);
    const double toward = part == 1.0 ? low * z + high * meridian : low * meridian - high * z;
    return saltgate_pier_clamp(toward, -1.0, 1.0);
}

/* The hour at which the sun passes a height, given by its sine: rising (`side` -1), highest (0), setting
   (1). */
static inline double saltgate_pier_sun_hour(double side, double days, double latitude, double longitude,
    double sine)
{
    const double low = saltgate_pier_sine_of_turns(latitude / 360.0);
    const double high = saltgate_pier_sine_of_turns(latitude / 360.0 + 0.25);
    double hour = 12.0;
    double aim = 0.0;
    for (uint32_t pass = 0; pass < 4; ++pass) {
        const double now = days + hour / 24.0;
        const double way = saltgate_pier_sun_way(now);
        const double tilt = saltgate_pier_axis_tilt(now);
        const double across = saltgate_pier_sine_of_turns(way);
        const double x = saltgate_pier_sine_of_turns(way + 0.25);
        const double y = saltgate_pier_sine_of_turns(tilt + 0.25) * across;
        const double z = saltgate_pier_sine_of_turns(tilt) * across;
        const double past = saltgate_pier_sky_turn(now, longitude) - saltgate_pier_arc_tangent(y, x) / 360.0;
        const double left = aim - past;
        hour += 24.0 * (left - saltgate_pier_round_down(left + 0.5));
        const double flat = sqrt((1.0 - z) * (1.0 + z));
        const double part = saltgate_pier_clamp((sine - low * z) / saltgate_pier_max(high * flat, 1e-12),
            -1.0, 1.0);
        aim = side * (0.25 - saltgate_pier_arc_sine(part) / 360.0);
    }
    return saltgate_pier_hour_of(hour);
}

/* Whether the sun stays below (-1) or above (1) a height all day, given by its sine; 0 where it crosses
   it, 0.5 (either sign) where it only rises or only sets. */
static inline double saltgate_pier_sun_stays(double days, double latitude, double longitude, double sine)
{
    const double noon = saltgate_pier_sun_hour(0.0, days, latitude, longitude, sine);
    const double low = saltgate_pier_sine_of_turns(latitude / 360.0);
    const double high = saltgate_pier_sine_of_turns(latitude / 360.0 + 0.25);
    double stays = 0.0;
    double side = -1.0;
    while (side < 2.0) {
        const double hour = saltgate_pier_sun_hour(side, days, latitude, longitude, sine);
        const double after = saltgate_pier_hour_of(side * (hour - noon));
        const double apart = after > 18.0 ? after - 24.0 : after;
        const double now = days + (noon + side * apart) / 24.0;
        const double z = saltgate_pier_sine_of_turns(saltgate_pier_axis_tilt(now))
            * saltgate_pier_sine_of_turns(saltgate_pier_sun_way(now));
        const double flat = sqrt((1.0 - z) * (1.0 + z));
        const double part = (sine - low * z) / saltgate_pier_max(high * flat, 1e-12);
        if (part > 0.9999) {
            stays -= 1.0;
        } else if (part < -0.9999) {
            stays += 1.0;
        }
        side += 2.0;
    }
    return stays * 0.5;
}

/* 2 to the power of a number from -1020 to 1020, to 2e-14 of it. */
static inline double saltgate_pier_two_to(double x)
{
    const double whole = saltgate_pier_round_down(x + 0.5);
    const double f = x - whole;
    double p = 1.021147686687256e-7;
    p = p * f + 1.325964614231444e-6;
    p = p * f + 1.5252641585726547e-5;
    p = p * f + 0.000154034337467768;
    p = p * f + 0.0013333558259554714;
    p = p * f + 0.009618129193941272;
    p = p * f + 0.05550410866424362;
    p = p * f + 0.24022650695640305;
    p = p * f + 0.6931471805599538;
    p = p * f + 1.0000000000000135;
    uint32_t left = (uint32_t)saltgate_pier_absolute(whole);
    double factor = whole < 0.0 ? 0.5 : 2.0;
    while (left > 0) {
        if (left % 2 == 1) p *= factor;
        factor *= factor;
        left = left / 2;
    }
    return p;
}

/* Exponential decay: e to the power of `-x`, to 1e-13 of it; 1 below 0, 0 from 700 on. */
static inline double saltgate_pier_decay(double x)
{
    if (saltgate_pier_is_nan(x) || x <= 0.0) return 1.0;
    if (x >= 700.0) return 0.0;
    const double p = saltgate_pier_two_to(-x * 1.4426950408889634);
    return p < 1.0 ? p : 1.0;
}

/* The first multiple of 1/120 s after a moment. */
static inline double saltgate_pier_next_look(double t)
{
    const double n = saltgate_pier_round_down(t * SALTGATE_PIER_LOOKS) + 1.0;
    const double look = n / SALTGATE_PIER_LOOKS;
    return look > t ? look : (n + 1.0) / SALTGATE_PIER_LOOKS;
}

/* The cube root of a number that is not below 0, to 4e-16 of it; 0 for what is all but 0. */
static inline double saltgate_pier_cube_root(double x)
{
    if (x < SALTGATE_PIER_SMALLEST) return 0.0;
    double part = x;
    double scale = 1.0;
    while (part >= 1.0) {
        part *= 0.125;
        scale *= 2.0;
    }
    while (part < 0.125) {
        part *= 8.0;
        scale *= 0.5;
    }
    double y = 0.3812513196434336 + part * (1.0723022680799823 - 0.46946113360511893 * part);
    for (uint32_t pass = 0; pass < 2; ++pass) {
        const double c = y * y * y;
        y = y * (c + 2.0 * part) / (2.0 * c + part);
    }
    return y * scale;
}

/* Root of the long cones' response to linear light, as in OKLab. */
static inline double saltgate_pier_cone_l(double r, double g, double b)
{
    return saltgate_pier_cube_root(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
}

/* Root of the middle cones' response to linear light, as in OKLab. */
static inline double saltgate_pier_cone_m(double r, double g, double b)
{
    return saltgate_pier_cube_root(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
}

/* Root of the short cones' response to linear light, as in OKLab. */
static inline double saltgate_pier_cone_s(double r, double g, double b)
{
    return saltgate_pier_cube_root(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
}

/* Linear red, not below 0, from the roots of the cones' responses. */
static inline double saltgate_pier_light_r(double l, double m, double s)
{
    const double v = 4.0767416621 * (l * l * l) - 3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
    return v > 0.0 ? v : 0.0;
}

/* Linear green, not below 0, from the roots of the cones' responses. */
static inline double saltgate_pier_light_g(double l, double m, double s)
{
    const double v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) - 0.3413193965 * (s * s * s);
    return v > 0.0 ? v : 0.0;
}

/* Linear blue, not below 0, from the roots of the cones' responses. */
static inline double saltgate_pier_light_b(double l, double m, double s)
{
    const double v = -0.0041960863 * (l * l * l) - 0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
    return v > 0.0 ? v : 0.0;
}

/* On the way from one level to another: softly for `over` seconds since a moment, then there to stay. */
static inline double saltgate_pier_faded(double from, double to, double since, double over, double now)
{
    if (now >= since + over) return to;
    return saltgate_pier_lerp(from, to,
        saltgate_pier_ease_smooth(saltgate_pier_clamp((now - since) / over, 0.0, 1.0)));
}

/* A moment, limited to 1e9 s either way; 0 for what is not a number. */
static inline double saltgate_pier_clean_moment(double t)
{
    if (saltgate_pier_is_nan(t) || (t >= -SALTGATE_PIER_SMALLEST && t <= SALTGATE_PIER_SMALLEST)) return 0.0;
    return saltgate_pier_clamp(t, -SALTGATE_PIER_LAST_MOMENT, SALTGATE_PIER_LAST_MOMENT);
}

/* The value of an input, limited to its range; `fallback` for what is not a finite number. */
static inline double saltgate_pier_clean_input(double v, double lo, double hi, double fallback)
{
    if (!saltgate_pier_is_finite(v)) return fallback;
    const double kept = v >= -SALTGATE_PIER_SMALLEST && v <= SALTGATE_PIER_SMALLEST ? 0.0 : v;
    return saltgate_pier_clamp(kept, lo, hi);
}

/* An index that is at most the last. */
static inline uint32_t saltgate_pier_at_most(uint32_t index, uint32_t last)
{
    return index < last ? index : last;
}

/* Single precision without negative zero and subnormals. */
static inline float saltgate_pier_to_single(double v)
{
    return (float)(v < SALTGATE_PIER_SMALLEST && v > -SALTGATE_PIER_SMALLEST ? 0.0 : v);
}

/* Whether this build computes exactly: without fused multiply-add, reordered sums, shared reciprocals, and with
   NaN. -ffp-contract=fast and -funsafe-math-optimizations of clang show in no macro. */
SALTGATE_PIER_API bool saltgate_pier_is_exact(void)
{
    volatile double just_above = 1.0 + 1.0 / 134217728.0, square = -(1.0 + 1.0 / 67108864.0);
    volatile double large = 1e16, one = 1.0, odd = 49.0, none = NAN;
    const double a = just_above, b = square, c = large, d = one, e = odd;
    bool exact = a * a + b == 0.0;
    exact = exact && (c + d) - c == 0.0;
    exact = exact && e / e == 1.0 && d / e * e != 1.0;
    return exact && none != none;
}

/* A run at moment 0. */
SALTGATE_PIER_API saltgate_pier_run saltgate_pier_start(uint32_t seed)
{
    saltgate_pier_run run;
    assert(saltgate_pier_is_exact());
    memset(&run, 0, sizeof run);
    run.seed = seed;
    run.clock_hour = 17.666666666666668;
    run.clock_rate = 1.0;
    run.weather_since = -2e9;
    run.weather_from[0] = 1.0;
    run.mist = 0.3;
    run.swell = 0.2;
    run.season = 324.0;
    run.haul = 1.0;
    run.rocket_place[0] = 30.0;
    run.rocket_place[1] = 40.0;
    run.rocket_place[2] = -60.0;
    run.rocket_tint[0] = 1.0;
    run.rocket_tint[1] = 1.0;
    run.rocket_tint[2] = 1.0;
    run.horn_changed = -2e9;
    run.ratchet_rate = -1.0;
    run.power_since = -2e9;
    run.power_from = 1.0;
    run.warning_entered = -2e9;
    run.warning_rule1_since = -2e9;
    run.blast_passed = -1e-9;
    run.notice0_text = -1.0;
    for (uint32_t n = 0; n < 3u; ++n) run.fog_lamp_fault_last[n] = -2e9;
    for (uint32_t n = 0; n < 3u; ++n) run.notice1_text[n] = -1.0;
    for (uint32_t n = 0; n < 12u; ++n) run.quay_cock[n] = 1.0;
    for (uint32_t n = 0; n < 3u; ++n) run.board_loudness[n] = 0.6;
    run.docking_started = -2e9;
    run.gate_opens_last = -2e9;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_born[n] = -2e9;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_length[n] = 5.0;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_place[n][0] = 30.0;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_place[n][1] = 40.0;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_place[n][2] = -60.0;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_tint[n][0] = 1.0;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_tint[n][1] = 1.0;
    for (uint32_t n = 0; n < 6u; ++n) run.star_shell_tint[n][2] = 1.0;
    run.power_on = true;
    return run;
}

static inline void saltgate_pier_settle(saltgate_pier_run *run);

/* Hours from the midnight of the day on which the clock was last set. */
static inline double saltgate_pier_clock_hours(const saltgate_pier_run *run)
{
    return run->clock_hour + (run->now - run->clock_since) * (run->clock_rate * 0.011428571428571429);
}

/* Hour of the game's clock, 0 to 24 (24 excluded). */
SALTGATE_PIER_API double saltgate_pier_clock_hour(const saltgate_pier_run *run)
{
    return saltgate_pier_hour_of(saltgate_pier_clock_hours(run));
}

/* How many days have begun on the clock since the run's first, which is 0; below 0 before it. */
SALTGATE_PIER_API double saltgate_pier_clock_days(const saltgate_pier_run *run)
{
    return saltgate_pier_clamp(run->clock_days + saltgate_pier_days_of(saltgate_pier_clock_hours(run)), -1e9,
        1e9);
}

/* Sets the clock to an hour of the current day. It keeps its rate. */
SALTGATE_PIER_API void saltgate_pier_set_clock(saltgate_pier_run *run, double hour)
{
    run->clock_days = saltgate_pier_clock_days(run);
    run->clock_hour = saltgate_pier_hour_of(saltgate_pier_clean_input(hour, -1e9, 1e9, 17.666666666666668));
    run->clock_since = run->now;
    run->due = run->now;
}

/* Moves the clock to an hour, the shorter way around, and holds it there: for a game with a clock of its
   own. */
SALTGATE_PIER_API void saltgate_pier_drive_clock(saltgate_pier_run *run, double hour)
{
    const double to = saltgate_pier_hour_of(saltgate_pier_clean_input(hour, -1e9, 1e9, 17.666666666666668));
    const double from = saltgate_pier_clock_hour(run);
    const double way = to - from;
    const double midnight = way > 12.0 ? -1.0 : way < -12.0 ? 1.0 : 0.0;
    run->clock_days = saltgate_pier_clamp(saltgate_pier_clock_days(run) + midnight, -1e9, 1e9);
    run->clock_hour = to;
    run->clock_since = run->now;
    run->due = run->now;
    run->clock_rate = 0.0;
    saltgate_pier_settle(run);
}

/* Sets how many days the clock has counted, rounded down. */
SALTGATE_PIER_API void saltgate_pier_set_clock_days(saltgate_pier_run *run, double days)
{
    run->clock_hour = saltgate_pier_clock_hour(run);
    run->clock_days = saltgate_pier_round_down(saltgate_pier_clean_input(days, -1e9, 1e9, 0.0));
    run->clock_since = run->now;
    run->due = run->now;
}

/* Sets the rate of the clock: 1 as in the book, 0 stops it, below 0 it runs backward; -1e6 to 1e6. */
SALTGATE_PIER_API void saltgate_pier_set_clock_rate(saltgate_pier_run *run, double rate)
{
    const double hour = saltgate_pier_clock_hour(run);
    run->clock_days = saltgate_pier_clock_days(run);
    run->clock_hour = hour;
    run->clock_since = run->now;
    run->due = run->now;
    run->clock_rate = saltgate_pier_clean_input(rate, -1e6, 1e6, 1.0);
}

/* How much an option counts now, 0 to 1. */
static inline double saltgate_pier_weather_weight(const saltgate_pier_run *run, uint32_t option)
{
    const double to = option == run->weather ? 1.0 : 0.0;
    return saltgate_pier_faded(run->weather_from[option], to, run->weather_since, 20.0, run->now);
}

/* Choice, set by the game: fair, overcast, with a transition of 20.0 s -- pier.caltrin:14: choice weather
   { fair, overcast } over 20s */
SALTGATE_PIER_API void saltgate_pier_set_weather(saltgate_pier_run *run, uint32_t option)
{
    if (option >= 2u || option == run->weather) return;
    for (uint32_t n = 0u; n < 2u; ++n) {
        run->weather_from[n] = saltgate_pier_weather_weight(run, n);
    }
    run->weather_since = run->now;
    run->weather = option;
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Input, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:10: input mist = 30% in 0%..100%
   (fog density, set by the game) */
SALTGATE_PIER_API void saltgate_pier_set_mist(saltgate_pier_run *run, double to)
{
    run->mist = saltgate_pier_clean_input(to, 0.0, 1.0, 0.3);
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Input, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:11: input swell = 20% in 0%..100%
   (height of the sea) */
SALTGATE_PIER_API void saltgate_pier_set_swell(saltgate_pier_run *run, double to)
{
    run->swell = saltgate_pier_clean_input(to, 0.0, 1.0, 0.2);
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Input, set by the game: number, kept within 1.0..366.0 -- pier.caltrin:12: input season = 324 in 1..366
   (day of the year, 20 November by default) */
SALTGATE_PIER_API void saltgate_pier_set_season(saltgate_pier_run *run, double to)
{
    run->season = saltgate_pier_clean_input(to, 1.0, 366.0, 324.0);
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Input, set by the game: number, kept within 0.0..2.0 -- pier.caltrin:13: input haul = 100% in 0%..200%
   (speed of the winch in the workshop) */
SALTGATE_PIER_API void saltgate_pier_set_haul(saltgate_pier_run *run, double to)
{
    run->haul = saltgate_pier_clean_input(to, 0.0, 2.0, 1.0);
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Input of 12, index 0 to 11, set by the game: number, kept within 0.0..1.0 -- pier.caltrin:158: input
   cock = 100% in 0%..100% (gas supply of each lamp) */
SALTGATE_PIER_API void saltgate_pier_set_quay_cock(saltgate_pier_run *run, uint32_t index, double to)
{
    if (index >= 12u) return;
    run->quay_cock[index] = saltgate_pier_clean_input(to, 0.0, 1.0, 1.0);
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Input of 3, index 0 to 2, set by the game: number, kept within 0.0..2.0 -- pier.caltrin:208: input
   loudness = 60% in 0%..200% */
SALTGATE_PIER_API void saltgate_pier_set_board_loudness(saltgate_pier_run *run, uint32_t index, double to)
{
    if (index >= 3u) return;
    run->board_loudness[index] = saltgate_pier_clean_input(to, 0.0, 2.0, 0.6);
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Envelope of a sound: 49 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
   full scale (lower 8 bits). 196 bytes. */
static const uint32_t saltgate_pier_horn_envelope[49] = {
    0x0u, 0xee09u, 0x24243u, 0x32180u, 0x390a7u, 0x473d1u, 0x63debu, 0x6acf9u, 0x907efu, 0x96df8u, 0xc0eeeu,
    0xc79f5u, 0xe7ceeu, 0xf42fau, 0x1176efu, 0x121bf7u, 0x1467f0u, 0x14e8f9u, 0x1714efu, 0x17cffbu,
    0x19caefu, 0x1a26f5u, 0x1cf3eeu, 0x1d74f5u, 0x1f96eeu, 0x1ff9f6u, 0x2262f0u, 0x22caf9u, 0x2532e5u,
    0x2759b8u, 0x2aaa59u, 0x2dd129u, 0x32550eu, 0x330619u, 0x355086u, 0x35ba92u, 0x3663b8u, 0x371ec2u,
    0x38f9bdu, 0x39b3c6u, 0x3c34beu, 0x3cd4c5u, 0x3f02bdu, 0x3f9fc3u, 0x42bda8u, 0x47983fu, 0x4b7518u,
    0x528303u, 0x5c0e00u
};

/* Envelope of a sound: 55 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
   full scale (lower 8 bits). 220 bytes. */
static const uint32_t saltgate_pier_buoy_envelope[55] = {
    0x17u, 0x4800fu, 0x4873fu, 0x4936eu, 0x4a18cu, 0x4a8adu, 0x4b8d2u, 0x4c8dau, 0x4d2d9u, 0x4e2e9u,
    0x512e8u, 0x522f8u, 0x5f1edu, 0x89ed3u, 0xcb89cu, 0x13f758u, 0x1c802du, 0x1c8a49u, 0x1ca468u, 0x1caf7cu,
    0x1cc48cu, 0x1cd68cu, 0x1ce994u, 0x23666eu, 0x270053u, 0x270971u, 0x27137du, 0x27217eu, 0x27299bu,
    0x273eb7u, 0x2753b8u, 0x2760c8u, 0x2794c6u, 0x27a4d0u, 0x33a05bu, 0x3cab29u, 0x49800cu, 0x498730u,
    0x49995au, 0x49a164u, 0x49ac84u, 0x49c19cu, 0x49d49cu, 0x49e4a7u, 0x4a14a6u, 0x4a26afu, 0x56b049u,
    0x5d042eu, 0x5d1838u, 0x5d2239u, 0x5d314cu, 0x5d7657u, 0x5e8959u, 0x692428u, 0x708017u
};

static const double saltgate_pier_blast_places[2] = {
    0.22712339743589743, 3.589878015350877
};

static const double saltgate_pier_bursts_on[65] = {
    0.0, 0.7155, 1.0152, 1.238, 1.2404, 2.0157, 2.8663, 3.7311, 4.5633, 4.7371, 5.1279, 6.0236, 6.3127,
    7.1598, 8.0075, 8.8125, 9.5932, 9.6597, 9.696, 10.6821, 11.3451, 11.8288, 12.7837, 13.1694, 13.9033,
    14.8109, 15.5938, 16.2674, 16.6973, 16.8333, 17.43, 17.7617, 17.8614, 18.6344, 19.5996, 20.1417, 20.1748,
    20.377, 21.1412, 21.3314, 21.5376, 22.1011, 23.0341, 24.0179, 24.453, 24.8634, 25.2002, 25.3501, 26.1601,
    26.9151, 27.7543, 28.1657, 28.541, 29.1283, 29.8095, 30.2508, 30.7433, 31.0401, 31.3425, 32.2912,
    32.4584, 32.758, 33.7317, 34.6752, 35.2245
};

static const double saltgate_pier_bursts_off[65] = {
    0.0, 0.7738, 1.3437, 1.6987, 1.9061, 2.4112, 3.1283, 3.642, 4.4697, 4.9292, 5.8406, 6.5692, 6.7153,
    7.5377, 7.6336, 8.3037, 8.7525, 9.1311, 9.8135, 10.3444, 11.276, 11.4266, 11.4836, 12.4501, 12.4798,
    13.3973, 13.533, 13.6373, 14.0338, 14.4989, 14.5389, 14.8797, 15.8484, 16.5283, 16.5303, 16.6322,
    17.1037, 17.863, 17.8875, 18.2454, 19.1154, 19.3658, 19.6642, 20.3023, 20.4718, 20.8784, 21.3826,
    22.0989, 22.786, 22.9712, 23.2326, 23.9456, 24.4821, 25.4601, 25.5671, 26.4133, 26.7146, 27.2721, 27.472,
    28.1412, 28.2784, 28.4203, 28.6996, 28.763, 28.8298
};

/* Envelope of a sound: 174 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
   full scale (lower 8 bits). 696 bytes. */
static const uint32_t saltgate_pier_ratchet_envelope[174] = {
    0x6eu, 0x9a1u, 0x16cau, 0x2be6u, 0x87ddu, 0x1e07eu, 0x1fd8eu, 0x21191u, 0x21eb1u, 0x23bc8u, 0x2c2b2u,
    0x3de6bu, 0x4066du, 0x42173u, 0x42c93u, 0x445adu, 0x476aeu, 0x61b57u, 0x63056u, 0x63a88u, 0x64aaeu,
    0x665c6u, 0x69eccu, 0x86861u, 0x87164u, 0x87a85u, 0x88da3u, 0x8aaafu, 0x932a2u, 0xa805au, 0xae14fu,
    0xae869u, 0xafa89u, 0xb1095u, 0xb1ac0u, 0xb29e3u, 0xb43f7u, 0xbf1ccu, 0xcce88u, 0xd8165u, 0xd917fu,
    0xdb08bu, 0xdb9b7u, 0xdc8dfu, 0xde1f6u, 0xe86cdu, 0xf6888u, 0x104f5cu, 0x10536eu, 0x105b95u, 0x106bbbu,
    0x1083cfu, 0x111fb4u, 0x12316eu, 0x12ed52u, 0x12f054u, 0x12f88bu, 0x1304bbu, 0x1317deu, 0x132ae5u,
    0x13b9c9u, 0x14ba7fu, 0x156061u, 0x156a8au, 0x1579abu, 0x1592beu, 0x1616aeu, 0x176361u, 0x17a15bu,
    0x17ae7bu, 0x17ca92u, 0x17d194u, 0x17e1afu, 0x1803bfu, 0x191e84u, 0x19c75fu, 0x19e05eu, 0x19ea85u,
    0x19fca7u, 0x1a17b4u, 0x1ab19fu, 0x1ba566u, 0x1bf05eu, 0x1bf893u, 0x1c04c3u, 0x1c17e5u, 0x1c28ebu,
    0x1ca1d6u, 0x1dc281u, 0x1e007cu, 0x1e0aaeu, 0x1e1ad6u, 0x1e32eau, 0x1ed1cau, 0x1fc981u, 0x20107eu,
    0x201ba6u, 0x202dc5u, 0x2047d1u, 0x21f16du, 0x220183u, 0x22218fu, 0x2229b1u, 0x223ad3u, 0x2254e3u,
    0x22ebc4u, 0x23ed7bu, 0x243172u, 0x243b90u, 0x2453acu, 0x247fb0u, 0x255889u, 0x26255cu, 0x267154u,
    0x267870u, 0x268b93u, 0x26a4a3u, 0x26b7b7u, 0x26e2bcu, 0x28b857u, 0x28e455u, 0x28f664u, 0x291067u,
    0x291a91u, 0x292bb4u, 0x2945c3u, 0x2b3d57u, 0x2b8250u, 0x2b9364u, 0x2bb16du, 0x2bbc8bu, 0x2bd4a4u,
    0x2bf5a7u, 0x2de24au, 0x2e5043u, 0x2e587fu, 0x2e63b2u, 0x2e74d8u, 0x2e85e4u, 0x2f1ac8u, 0x303679u,
    0x30f05au, 0x30fb85u, 0x310fa7u, 0x312ab1u, 0x31d994u, 0x32c95eu, 0x33604bu, 0x336783u, 0x3371b6u,
    0x337fddu, 0x3393f2u, 0x3406dfu, 0x354a80u, 0x35a171u, 0x35ad90u, 0x35c9a8u, 0x35d2abu, 0x35e3c2u,
    0x3608cdu, 0x37c566u, 0x37e167u, 0x37ed87u, 0x3807a0u, 0x386b9du, 0x39d256u, 0x39f055u, 0x39f887u,
    0x3a04b2u, 0x3a16d1u, 0x3a29d9u, 0x3abfbfu, 0x3be771u, 0x3c006eu
};

/* Envelope of a sound: 216 entries, each a position in 1/3840 s (upper 24 bits) and a level in 1/255 of
   full scale (lower 8 bits). 864 bytes. */
static const uint32_t saltgate_pier_rain_envelope[216] = {
    0x6fu, 0xf73bu, 0x1a033u, 0x1b036u, 0x1b86bu, 0x1c398u, 0x1d4bau, 0x1eec9u, 0x220c8u, 0x2bb99u, 0x30d86u,
    0x3995au, 0x49e38u, 0x5222fu, 0x5f919u, 0x66118u, 0x66d36u, 0x6884du, 0x69250u, 0x69d66u, 0x6c37bu,
    0x6d490u, 0x6fa98u, 0x75b8du, 0x78895u, 0x7b395u, 0x7c5a8u, 0x7e2afu, 0x7f1c5u, 0x814d0u, 0x880abu,
    0x8f679u, 0x9be49u, 0x9f34au, 0xa0b5bu, 0xa225fu, 0xa3276u, 0xa5a81u, 0xba73bu, 0xbd039u, 0xbd968u,
    0xbe790u, 0xc00abu, 0xc15ccu, 0xc35d6u, 0xc9eb5u, 0xd02b2u, 0xd569au, 0xd96a2u, 0xe4088u, 0xe4bb0u,
    0xe60d0u, 0xe79d7u, 0xebacau, 0xf8e73u, 0x106840u, 0x10e134u, 0x10ed51u, 0x110a68u, 0x114374u, 0x123c53u,
    0x12a740u, 0x12f13cu, 0x130356u, 0x13205fu, 0x132b88u, 0x133fa8u, 0x1356b1u, 0x13c9a2u, 0x13f4a2u,
    0x14717fu, 0x147d9du, 0x1499b4u, 0x14a2b7u, 0x14aecfu, 0x14d0e1u, 0x1560aeu, 0x1570c8u, 0x1596d7u,
    0x15d8ceu, 0x16858eu, 0x16b586u, 0x16d492u, 0x16e593u, 0x16f6a0u, 0x1715a5u, 0x172bb3u, 0x1768b1u,
    0x189157u, 0x18c152u, 0x18d16du, 0x18f17du, 0x18fd9au, 0x1917b2u, 0x1973a1u, 0x19b18eu, 0x19c2a6u,
    0x1a09b9u, 0x1a8598u, 0x1ab19cu, 0x1ad2a4u, 0x1addbau, 0x1b02ceu, 0x1b10e6u, 0x1b32f5u, 0x1b6ee7u,
    0x1bb8e7u, 0x1c30c9u, 0x1c64c7u, 0x1d7165u, 0x1e3040u, 0x1e3e59u, 0x1e6569u, 0x1ec961u, 0x1ef269u,
    0x1f0180u, 0x1f268cu, 0x1ff85bu, 0x20a043u, 0x20ab69u, 0x20bf87u, 0x20d191u, 0x20dbb2u, 0x20f2d0u,
    0x210cd4u, 0x21b1b3u, 0x21c3b7u, 0x21d7cbu, 0x21fdceu, 0x231c68u, 0x243c32u, 0x25c515u, 0x26411au,
    0x26a416u, 0x26bd25u, 0x26d025u, 0x26d75au, 0x26e28du, 0x26f3b4u, 0x2702c3u, 0x2710deu, 0x2731f0u,
    0x27cbb3u, 0x281ea8u, 0x28bc71u, 0x28e971u, 0x290d7bu, 0x298866u, 0x29a067u, 0x29a89du, 0x29b5ceu,
    0x29c8eeu, 0x29ecf8u, 0x2a17f1u, 0x2af28cu, 0x2b985cu, 0x2c9b46u, 0x2d0248u, 0x2d3342u, 0x2d4252u,
    0x2d6058u, 0x2d6b82u, 0x2d7ca2u, 0x2d96b0u, 0x2deba1u, 0x2e3989u, 0x2edb71u, 0x2ee176u, 0x2eea99u,
    0x2efdbbu, 0x2f17c6u, 0x2ff38eu, 0x30566eu, 0x306170u, 0x306c8fu, 0x3085aau, 0x30c1b9u, 0x31b768u,
    0x320d60u, 0x321165u, 0x321d89u, 0x3236a5u, 0x3274a6u, 0x328db5u, 0x32e4acu, 0x334390u, 0x33ad89u,
    0x34884eu, 0x356531u, 0x357235u, 0x35824cu, 0x35aa58u, 0x364547u, 0x374a24u, 0x37e122u, 0x37f932u,
    0x38dd26u, 0x39631bu, 0x397929u, 0x39942du, 0x39a93du, 0x39c142u, 0x39cf62u, 0x39ef78u, 0x39f77cu,
    0x3a0e8cu, 0x3a3f89u, 0x3a5285u, 0x3a6598u, 0x3a809du, 0x3a8bc4u, 0x3a9ee4u, 0x3ab6edu, 0x3b10ceu,
    0x3b8c92u, 0x3c006fu
};

/* `ease-out` as 16 polynomials of the fifth degree, each over a part of 0..1, the highest power first;
   within 1e-7 of the exact curve. */
static const double saltgate_pier_ease_out_pieces[96] = {
    -5.490921011389926e-7, -9.215858420839242e-6, -0.00021791080348798882, 0.013469837540678976,
    -5.875513068697574e-10, 0.0, -7.812906442007688e-7, -1.1921502634788701e-5, -0.00026039201886651336,
    0.012755323743685737, 0.026246331660761478, 0.013242161199117702, -1.1470303498266568e-6,
    -1.57597353894718e-5, -0.00031609106965668727, 0.011894813794337775, 0.050924208215561775,
    0.051970721791419414, -1.7479913325901494e-6, -2.1372028544560593e-5, -0.0003909298317580072,
    0.010840526335291848, 0.07369678452807546, 0.11445674596592298, -2.787034831801281e-6,
    -2.9877057746434823e-5, -0.0004944691268364615, 0.009522052430272493, 0.09411081273810756,
    0.19858000697765513, -4.6994271145375755e-6, -4.332872350007502e-5, -0.0006429030413468478,
    0.00783156935190177, 0.11153805406361833, 0.3016857389266205, -8.50732662053775e-6, -6.57344029710489e-5,
    -0.0008653246288636998, 0.005596022403982633, 0.1250756460573343, 0.42036443115017913,
    -1.6904405265351618e-5, -0.00010549397155902313, -0.0012180302593254196, 0.0025208969951021135,
    0.1333661858154677, 0.5500965332530408, 3.3712425590457837e-6, -4.095286987198712e-7,
    0.0007679774348479351, -0.018716700160231314, 0.13424733768574154, 0.6846431874274608,
    1.2579134931588407e-6, 1.6057195864345778e-5, 0.0007988598580169008, -0.01638155905865332,
    0.09913307328340157, 0.8009447641016793, -6.317713143695668e-7, 2.2480896384418486e-5,
    0.00087462955533409, -0.013876041617058493, 0.06883704056353922, 0.8845124532938019,
    -3.061510011573499e-6, 1.957322781365585e-5, 0.000956921867894759, -0.011123555996506935,
    0.04379559494504209, 0.9403699309206868, -5.874328212508291e-6, 4.2603194355086145e-6,
    0.001003101621752473, -0.008165967038836043, 0.024482215996438905, 0.9740154034549188,
    -7.87288797710202e-6, -2.5796357916395782e-5, 0.0009603605945975635, -0.005189924073107821,
    0.011147244076648124, 0.9913331400254971, -7.1871739862643715e-6, -6.655045893937429e-5,
    0.000778840811191835, -0.002542512031815276, 0.0035059326605616247, 0.9982171513777415,
    -2.963768508834497e-6, -0.0001037352517158991, 0.00044301369064583937, -0.0006773100438795756,
    0.00045532018870445066, 0.999885675184754
};

/* `ease-in-out` as 8 polynomials of the fifth degree, each over a part of 0..1, the highest power first;
   within 1e-7 of the exact curve. */
static const double saltgate_pier_ease_in_out_pieces[48] = {
    -5.9600306280916765e-5, -1.4288728891786733e-5, 0.0016594495774066404, 0.029528664822178394,
    -1.7527892799120912e-7, 0.0, -0.00011648313076795529, -0.00031830302097432653, 0.000978134289642213,
    0.03382451569941413, 0.06368001712452143, 0.03111405008548434, -5.5044145543013375e-5,
    -0.0009962619012020236, -0.0014212342730732153, 0.033673105764911386, 0.13240830588437225,
    0.12916193104731982, 0.00023844012784479446, -0.0013059528540354578, -0.00581312951409624,
    0.022877618144652282, 0.1912322217188494, 0.2927708023767852, 0.00023844012789033995,
    0.00011375221469641275, -0.008652539651685822, 1.3086243361283426e-5, 0.2155164586889527, 0.5,
    -5.50441455401784e-5, 0.0012714826289151513, -0.005956723333316166, -0.022881390083044177,
    0.1912305462624506, 0.7072291976232149, -0.00011648313075617576, 0.0009007186747838045,
    -0.0014599091019041797, -0.0336842691348305, 0.13240782365454262, 0.8708380689526801,
    -5.9600306281003555e-5, 0.0003122902602908354, 0.0010062915990415868, -0.033825278118245525,
    0.0636803466506784, 0.9688859499145157
};

/* `cubic-bezier(0.3, -0.4, 0.7, 1.4)` as 16 polynomials of the fifth degree, each over a part of 0..1, the
   highest power first; within 1e-7 of the exact curve. */
static const double saltgate_pier_bezier_3_pieces[96] = {
    -2.0839635253014506e-5, 0.00026346860584732564, -0.003121982037920477, 0.03375696594323201,
    -0.08333328950444055, 0.0, -1.1772708287704646e-5, 0.0001618036240917055, -0.0022714810883500977,
    0.025763733932832197, -0.02423556673985584, -0.05245567662853471, -7.155736051222788e-6,
    0.00010409337263745854, -0.001739447914372911, 0.01980252125438844, 0.021065839563878686,
    -0.05304895960810445, -4.643557890110237e-6, 6.888918567261767e-5, -0.0013932511312615102,
    0.015137248052746606, 0.055833149800659405, -0.013823109067623995, -3.215798507469831e-6,
    4.598106423557e-5, -0.0011633471260896985, 0.011324430650757281, 0.0821802409063806, 0.05581828328230301,
    -2.392753250931857e-6, 3.0082865585908042e-5, -0.0010111303210029396, 0.00807813894942822,
    0.10150691152483486, 0.1482023729790793, -1.9377183689742935e-6, 1.8235534549804022e-5,
    -0.0009144775806582286, 0.005201331345965356, 0.11473816915506503, 0.2568039832446744,
    -1.7343456705234125e-6, 8.633105562111952e-6, -0.0008608014939272777, 0.002547944762471317,
    0.12246065399033697, 0.3758453039812274, -1.7343456079591213e-6, 3.8622636578615265e-8,
    -0.0008436125282516556, 4.542597081559066e-9, 0.12499999972739867, 0.5, -1.9377183888921395e-6,
    -8.546942661832059e-6, -0.0008609126261862148, -0.002547934627580869, 0.1224606526513704,
    0.6241546960187727, -2.3927533505927746e-6, -1.811909908379443e-5, -0.0009147263913770377,
    -0.005201317647359299, 0.11473816615676595, 0.7431960167553253, -3.2157984776506527e-6,
    -2.990207177293145e-5, -0.001011580854159216, -0.008078117672846238, 0.10150690609403262,
    0.8517976270209205, -4.6435578610579695e-6, -4.5671396298825845e-5, -0.0011641299674016265,
    -0.011324394194122489, 0.08218023146561061, 0.9441817167176971, -7.155736068435378e-6,
    -6.831469235602926e-5, -0.001394631784335534, -0.01513718038659372, 0.055833133139834276,
    1.0138231090676237, -1.1772708273850223e-5, -0.00010294008270513892, -0.0017419936747978758,
    -0.019802385329485316, 0.021065808815692116, 1.0530489596081043, -2.083963520366024e-5,
    -0.0001592704297073706, -0.002276503966944367, -0.025763435112073237, -0.024235627484605594,
    1.0524556766285342
};

/* Names of notices, by the lines that send them. */
static const char *const saltgate_pier_notice_names[2] = {
    "echo", "strike"
};

/* What they come from. */
static const char *const saltgate_pier_notice_sources[2] = {
    "", "fog_lamp"
};

/* What they come with. */
static const char *const saltgate_pier_notice_texts[5] = {
    "echo_near", "echo_far", "strike_a", "strike_b", "strike_c"
};

/* Where the texts of each line begin. */
static const uint32_t saltgate_pier_notice_text_starts[3] = {
    0u, 2u, 5u
};

/* Keys of the saved fields. */
static const uint32_t saltgate_pier_save_keys[68] = {
    0x61fce60fu, 0xf3f00dbau, 0x4b003e04u, 0xcf5f1781u, 0x738e7afbu, 0xeef5f1b9u, 0x979147f7u, 0x8e30e6b4u,
    0xc6a36591u, 0x1d53ffbu, 0xb25c12f4u, 0xf219cddu, 0xfa80bb24u, 0x948ac393u, 0xb64aec1du, 0x77cd58eau,
    0x9dff9adbu, 0xebcd70c2u, 0x1e38b688u, 0x29c5642bu, 0x1a2ba080u, 0xf5bb38b7u, 0xbd763971u, 0x7568b389u,
    0x8b0f0b16u, 0x4d4462e0u, 0xeee9a83fu, 0xa11805efu, 0x594dd47eu, 0x7311072eu, 0x97b93994u, 0xb44e9fcfu,
    0x75f62afdu, 0x95df5b27u, 0xc03745b6u, 0x25a40c24u, 0xae6f962du, 0x5f503edcu, 0x3f7fc856u, 0x808b40b7u,
    0x72db5e26u, 0x37eb6c3du, 0x15896cfau, 0xd00d823cu, 0x137e1032u, 0x4163390bu, 0xd82cb83cu, 0xfdc758u,
    0x31158687u, 0xc936b300u, 0x33245cbfu, 0xbf8ddac4u, 0x744215d4u, 0x4accf95au, 0xf334709au, 0x9291b544u,
    0x7c149e9du, 0xc8f8cf3bu, 0x990eaa7du, 0xdf178a2eu, 0x35911a6bu, 0x4665aaa1u, 0x98fcc1b9u, 0x4bab7fc2u,
    0x456bcddfu, 0xf2fb69cfu, 0x757733c1u, 0xd31fad1du
};

/* Their kinds, times 2^24, plus counts. */
static const uint32_t saltgate_pier_save_heads[68] = {
    0x1000001u, 0x2000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x3000001u, 0x1000001u,
    0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u,
    0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x2000001u, 0x1000001u,
    0x1000001u, 0x1000001u, 0x1000001u, 0x2000001u, 0x1000001u, 0x1000001u, 0x3000001u, 0x1000001u,
    0x1000001u, 0x1000001u, 0x1000001u, 0x2000001u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000020u,
    0x1000020u, 0x1000020u, 0x1000020u, 0x1000020u, 0x1000001u, 0x1000001u, 0x1000001u, 0x1000001u,
    0x1000020u, 0x1000001u, 0x1000003u, 0x1000003u, 0x1000003u, 0x1000020u, 0x1000003u, 0x100000cu,
    0x1000003u, 0x1000001u, 0x1000001u, 0x1000006u, 0x1000006u, 0x1000006u, 0x1000006u, 0x1000006u,
    0x1000006u, 0x1000006u, 0x1000006u, 0x1000001u
};

/* Keys of the options of choices and modes. */
static const uint32_t saltgate_pier_option_keys[5] = {
    0x449e4f82u, 0x75cc37du, 0xb1d77eb4u, 0x2c57e7d0u, 0x1cbf3d26u
};

/* Keys of fields that the preview saves too and this file does not use. */
static const uint32_t saltgate_pier_save_unused[12] = {
    0x2363e9c6u, 0xfa393b02u, 0xcad7ad04u, 0x3f6caab2u, 0x10486bfbu, 0x28c29ad9u, 0x99007db1u, 0x1977065fu,
    0x1a8f76fbu, 0xb60b8925u, 0xeab2eaa5u, 0xc279d0deu
};

/* Signal, shared by all that use it */
static inline double saltgate_pier_sun_moment(double hour, double season)
{
    return season - saltgate_pier_wrap_time(season, 1.0) + 9130.5 + hour / 24.0;
}

/* Signal, shared by all that use it, deg -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_height(double hour, double season)
{
    return saltgate_pier_arc_sine(saltgate_pier_sky_part(1.0, saltgate_pier_sun_moment(hour, season), 0.0,
            54.0, 0.0));
}

/* Signal, shared by all that use it, deg -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_azimuth(double hour, double season)
{
    const double sun_moment_now = saltgate_pier_sun_moment(hour, season);
    return saltgate_pier_compass(saltgate_pier_sky_part(0.0, sun_moment_now, 0.0, 54.0, 0.0),
        -saltgate_pier_sky_part(2.0, sun_moment_now, 0.0, 54.0, 0.0));
}

/* Signal, shared by all that use it */
static inline double saltgate_pier_sun_day(double season)
{
    return season - saltgate_pier_wrap_time(season, 1.0) + 9130.5;
}

/* Curve over x degrees */
static inline double saltgate_pier_beam_color_l(double x)
{
    if (x < -1.0) return 0.76556921644744;
    if (x < 5.0) {
        if (x < -0.833) return 0.76556921644744 + 0.0034616770224059623 * ((x + 1.0) / 0.16700000000000004);
        if (x < 0.0) return 0.769030893469846 + 0.02389409999351011 * ((x + 0.833) / 0.833);
        if (x < 1.0) return 0.7929249934633561 + 0.03311019128050918 * x;
        if (x < 2.0) return 0.8260351847438653 + 0.02858102800850204 * (x - 1.0);
        if (x < 3.0) return 0.8546162127523673 + 0.022333433690773008 * (x - 2.0);
        if (x < 5.0) return 0.8769496464431403 + 0.030483629821329572 * ((x - 3.0) / 2.0);
        return 0.9074332762644699;
    }
    if (x < 8.0) return 0.9074332762644699 + 0.026006758231013616 * ((x - 5.0) / 3.0);
    if (x < 12.0) return 0.9334400344954835 + 0.01840473974710244 * ((x - 8.0) / 4.0);
    if (x < 20.0) return 0.951844774242586 + 0.017073676766362733 * ((x - 12.0) / 8.0);
    if (x < 35.0) return 0.9689184510089487 + 0.01187939181858444 * ((x - 20.0) / 15.0);
    if (x < 60.0) return 0.9807978428275331 + 0.006256078091570805 * ((x - 35.0) / 25.0);
    if (x < 90.0) return 0.9870539209191039 + 0.0016906898945302506 * ((x - 60.0) / 30.0);
    return 0.9887446108136342;
}

/* Curve over x degrees */
static inline double saltgate_pier_beam_color_m(double x)
{
    if (x < -1.0) return 0.6367756176213368;
    if (x < 5.0) {
        if (x < -0.833) return 0.6367756176213368 + 0.006316339277870342 * ((x + 1.0) / 0.16700000000000004);
        if (x < 0.0) return 0.6430919568992072 + 0.04197283587181311 * ((x + 0.833) / 0.833);
        if (x < 1.0) return 0.6850647927710203 + 0.054501515243042586 * x;
        if (x < 2.0) return 0.7395663080140629 + 0.04469637475266908 * (x - 1.0);
        if (x < 3.0) return 0.7842626827667319 + 0.03392431322623923 * (x - 2.0);
        if (x < 5.0) return 0.8181869959929712 + 0.04543678850478583 * ((x - 3.0) / 2.0);
        return 0.863623784497757;
    }
    if (x < 8.0) return 0.863623784497757 + 0.03834700926595569 * ((x - 5.0) / 3.0);
    if (x < 12.0) return 0.9019707937637127 + 0.027063792179308988 * ((x - 8.0) / 4.0);
    if (x < 20.0) return 0.9290345859430217 + 0.025114345467018406 * ((x - 12.0) / 8.0);
    if (x < 35.0) return 0.9541489314100401 + 0.01749707409700796 * ((x - 20.0) / 15.0);
    if (x < 60.0) return 0.971646005507048 + 0.009228483246774943 * ((x - 35.0) / 25.0);
    if (x < 90.0) return 0.980874488753823 + 0.0024941095522693635 * ((x - 60.0) / 30.0);
    return 0.9833685983060924;
}

/* Curve over x degrees */
static inline double saltgate_pier_beam_color_s(double x)
{
    if (x < -1.0) return 0.47551720686508486;
    if (x < 5.0) {
        if (x < -0.833) return 0.47551720686508486 + 0.004688051812609784 * ((x + 1.0) / 0.16700000000000004);
        if (x < 0.0) return 0.48020525867769465 + 0.03213414280986854 * ((x + 0.833) / 0.833);
        if (x < 1.0) return 0.5123394014875632 + 0.046113756680241424 * x;
        if (x < 2.0) return 0.5584531581678046 + 0.045632238587331786 * (x - 1.0);
        if (x < 3.0) return 0.6040853967551364 + 0.042034465795594 * (x - 2.0);
        if (x < 5.0) return 0.6461198625507304 + 0.06882335788930949 * ((x - 3.0) / 2.0);
        return 0.7149432204400399;
    }
    if (x < 8.0) return 0.7149432204400399 + 0.06956395498472612 * ((x - 5.0) / 3.0);
    if (x < 12.0) return 0.784507175424766 + 0.05489706143893658 * ((x - 8.0) / 4.0);
    if (x < 20.0) return 0.8394042368637026 + 0.054480201757178603 * ((x - 12.0) / 8.0);
    if (x < 35.0) return 0.8938844386208812 + 0.039598989406408935 * ((x - 20.0) / 15.0);
    if (x < 60.0) return 0.9334834280272901 + 0.021378761768959365 * ((x - 35.0) / 25.0);
    if (x < 90.0) return 0.9548621897962495 + 0.005808854794570939 * ((x - 60.0) / 30.0);
    return 0.9606710445908204;
}

/* Curve over x degrees */
static inline double saltgate_pier_beam_strength(double x)
{
    if (x < -0.833) return 0.0;
    if (x < 0.0) return 0.0215 * ((x + 0.833) / 0.833);
    if (x < 1.0) return 0.0215 + 0.032600000000000004 * x;
    if (x < 2.0) return 0.0541 + 0.0452 * (x - 1.0);
    if (x < 3.0) return 0.0993 + 0.05099999999999999 * (x - 2.0);
    if (x < 5.0) return 0.1503 + 0.10189999999999999 * ((x - 3.0) / 2.0);
    if (x < 8.0) return 0.2522 + 0.1311 * ((x - 5.0) / 3.0);
    if (x < 12.0) return 0.3833 + 0.13190000000000002 * ((x - 8.0) / 4.0);
    if (x < 20.0) return 0.5152 + 0.17000000000000004 * ((x - 12.0) / 8.0);
    if (x < 35.0) return 0.6852 + 0.16479999999999995 * ((x - 20.0) / 15.0);
    if (x < 60.0) return 0.85 + 0.11430000000000007 * ((x - 35.0) / 25.0);
    if (x < 90.0) return 0.9643 + 0.035699999999999954 * ((x - 60.0) / 30.0);
    return 1.0;
}

/* Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_aim_x(double hour, double season)
{
    return -saltgate_pier_sky_part(0.0, saltgate_pier_sun_moment(hour, season), 0.0, 54.0, 0.0);
}

/* Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_aim_y(double hour, double season)
{
    return -saltgate_pier_sky_part(1.0, saltgate_pier_sun_moment(hour, season), 0.0, 54.0, 0.0);
}

/* Signal, shared by all that use it, m -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_aim_z(double hour, double season)
{
    return -saltgate_pier_sky_part(2.0, saltgate_pier_sun_moment(hour, season), 0.0, 54.0, 0.0);
}

/* Signal, shared by all that use it, h -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_rise(double season)
{
    return saltgate_pier_sun_hour(-1.0, saltgate_pier_sun_day(season), 54.0, 0.0, -0.014538080502491512);
}

/* Signal, shared by all that use it, h -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_set(double season)
{
    return saltgate_pier_sun_hour(1.0, saltgate_pier_sun_day(season), 54.0, 0.0, -0.014538080502491512);
}

/* Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_daylight(double hour, double season)
{
    return saltgate_pier_lerp(0.0, 1.0,
        saltgate_pier_ease_smooth(saltgate_pier_clamp((saltgate_pier_sun_height(hour, season) + 6.0) / 12.0,
                0.0, 1.0)));
}

/* Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_color_r(double hour, double season)
{
    const double sun_height_now = saltgate_pier_sun_height(hour, season);
    return saltgate_pier_light_r(saltgate_pier_beam_color_l(sun_height_now),
        saltgate_pier_beam_color_m(sun_height_now), saltgate_pier_beam_color_s(sun_height_now));
}

/* Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_color_g(double hour, double season)
{
    const double sun_height_now = saltgate_pier_sun_height(hour, season);
    return saltgate_pier_light_g(saltgate_pier_beam_color_l(sun_height_now),
        saltgate_pier_beam_color_m(sun_height_now), saltgate_pier_beam_color_s(sun_height_now));
}

/* Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_color_b(double hour, double season)
{
    const double sun_height_now = saltgate_pier_sun_height(hour, season);
    return saltgate_pier_light_b(saltgate_pier_beam_color_l(sun_height_now),
        saltgate_pier_beam_color_m(sun_height_now), saltgate_pier_beam_color_s(sun_height_now));
}

/* Signal, shared by all that use it -- pier.caltrin:16: sun { latitude 54deg; date season } */
static inline double saltgate_pier_sun_strength(double hour, double season)
{
    return saltgate_pier_beam_strength(saltgate_pier_sun_height(hour, season));
}

/* Signal, shared by all that use it */
static inline double saltgate_pier_moon_moment(double hour, double season)
{
    return season - saltgate_pier_wrap_time(season, 1.0) + 9130.5 + hour / 24.0;
}

/* Signal, shared by all that use it, deg -- pier.caltrin:17: moon { age 9 + days } */
static inline double saltgate_pier_moon_height(double hour, double days, double season)
{
    return saltgate_pier_arc_sine(saltgate_pier_sky_part(1.0, saltgate_pier_moon_moment(hour, season),
            (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0));
}

/* Curve over x as a number */
static inline double saltgate_pier_moon_by_age(double x)
{
    if (x < 0.0) return 0.0003;
    if (x < 0.1) return 0.0003 + 0.0013000000000000002 * (x / 0.1);
    if (x < 0.2) return 0.0016 + 0.0049 * ((x - 0.1) / 0.1);
    if (x < 0.3) return 0.0065 + 0.012800000000000002 * ((x - 0.2) / 0.09999999999999998);
    if (x < 0.4) return 0.0193 + 0.0263 * ((x - 0.3) / 0.10000000000000003);
    if (x < 0.5) return 0.0456 + 0.045399999999999996 * ((x - 0.4) / 0.09999999999999998);
    if (x < 0.6) return 0.091 + 0.07050000000000001 * ((x - 0.5) / 0.09999999999999998);
    if (x < 0.7) return 0.1615 + 0.10440000000000002 * ((x - 0.6) / 0.09999999999999998);
    if (x < 0.8) return 0.2659 + 0.1538 * ((x - 0.7) / 0.10000000000000009);
    if (x < 0.9) return 0.4197 + 0.22989999999999994 * ((x - 0.8) / 0.09999999999999998);
    if (x < 1.0) return 0.6496 + 0.35040000000000004 * ((x - 0.9) / 0.09999999999999998);
    return 1.0;
}

/* Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days } */
static inline double saltgate_pier_moon_aim_x(double hour, double days, double season)
{
    return -saltgate_pier_sky_part(0.0, saltgate_pier_moon_moment(hour, season),
        (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
}

/* Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days } */
static inline double saltgate_pier_moon_aim_y(double hour, double days, double season)
{
    return -saltgate_pier_sky_part(1.0, saltgate_pier_moon_moment(hour, season),
        (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
}

/* Signal, shared by all that use it, m -- pier.caltrin:17: moon { age 9 + days } */
static inline double saltgate_pier_moon_aim_z(double hour, double days, double season)
{
    return -saltgate_pier_sky_part(2.0, saltgate_pier_moon_moment(hour, season),
        (9.0 + days + hour / 24.0) / 29.530588, 54.0, 0.0);
}

/* Signal, shared by all that use it -- pier.caltrin:17: moon { age 9 + days } */
static inline double saltgate_pier_moon_strength(double hour, double days, double season)
{
    return saltgate_pier_beam_strength(saltgate_pier_moon_height(hour, days, season))
        * saltgate_pier_moon_by_age(saltgate_pier_triangle_level((9.0 + days + hour / 24.0) / 29.530588));
}

/* Signal, shared by all that use it */
static inline double saltgate_pier_sun_horizon_stays(double season)
{
    return saltgate_pier_sun_stays(saltgate_pier_sun_day(season), 54.0, 0.0, -0.014538080502491512);
}

/* Signal, shared by all that use it -- pier.caltrin:19: hours dark from sun.set to sun.rise over 00:30
   after */
static inline double saltgate_pier_dark(double hour, double season)
{
    const double sun_horizon_stays_now = saltgate_pier_sun_horizon_stays(season);
    return sun_horizon_stays_now > 0.75
        ? 0.0
        : -0.75 > sun_horizon_stays_now
        ? 1.0
        : saltgate_pier_ease_smooth(saltgate_pier_clamp(saltgate_pier_hours_level(hour,
                    saltgate_pier_sun_set(season), 0.5, saltgate_pier_sun_rise(season), 0.5), 0.0, 1.0));
}

/* Signal, shared by all that use it -- pier.caltrin:22: night from 21:30 over 01:00 before tint #7f9fd8 */
static inline double saltgate_pier_watch_night(double hour)
{
    return saltgate_pier_ease_smooth(saltgate_pier_clamp(saltgate_pier_hours_level(hour, 20.5, 1.0, 4.5, 1.0),
            0.0, 1.0));
}

/* Signal, shared by all that use it -- pier.caltrin:23: morning from 05:00 over 01:00 tint #a9c4b4 */
static inline double saltgate_pier_watch_morning(double hour)
{
    return saltgate_pier_ease_smooth(saltgate_pier_clamp(saltgate_pier_hours_level(hour, 4.5, 1.0, 8.75, 1.5),
            0.0, 1.0));
}

/* Signal, shared by all that use it -- pier.caltrin:24: forenoon from 09:30 over 01:30 tint #fff6e4 */
static inline double saltgate_pier_watch_forenoon(double hour)
{
    return saltgate_pier_ease_smooth(saltgate_pier_clamp(saltgate_pier_hours_level(hour, 8.75, 1.5, 14.0,
                2.0), 0.0, 1.0));
}

/* Signal, shared by all that use it -- pier.caltrin:25: evening from 15:00 over 02:00 tint #ffcf8a */
static inline double saltgate_pier_watch_evening(double hour)
{
    return saltgate_pier_ease_smooth(saltgate_pier_clamp(saltgate_pier_hours_level(hour, 14.0, 2.0, 20.5,
                1.0), 0.0, 1.0));
}

/* Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches of the pier's crew) */
static inline double saltgate_pier_watch_tint_r(double hour)
{
    const double watch_night_now = saltgate_pier_watch_night(hour);
    const double watch_morning_now = saltgate_pier_watch_morning(hour);
    const double watch_forenoon_now = saltgate_pier_watch_forenoon(hour);
    const double watch_evening_now = saltgate_pier_watch_evening(hour);
    return saltgate_pier_light_r(saltgate_pier_clamp(0.6758877802301922 * watch_night_now
                + 0.7846518148414676 * watch_morning_now
                + 0.9818072823266701 * watch_forenoon_now
                + 0.9125592497722734 * watch_evening_now, 0.6758877802301922, 0.9818072823266701),
        saltgate_pier_clamp(0.7078847675495546 * watch_night_now
                + 0.7983533337292693 * watch_morning_now
                + 0.9734847537076345 * watch_forenoon_now
                + 0.872382696771993 * watch_evening_now, 0.7078847675495546, 0.9734847537076345),
        saltgate_pier_clamp(0.8188297202235845 * watch_night_now
                + 0.7819258288945272 * watch_morning_now
                + 0.9422944153106793 * watch_forenoon_now
                + 0.7513718714261628 * watch_evening_now, 0.7513718714261628, 0.9422944153106793));
}

/* Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches of the pier's crew) */
static inline double saltgate_pier_watch_tint_g(double hour)
{
    const double watch_night_now = saltgate_pier_watch_night(hour);
    const double watch_morning_now = saltgate_pier_watch_morning(hour);
    const double watch_forenoon_now = saltgate_pier_watch_forenoon(hour);
    const double watch_evening_now = saltgate_pier_watch_evening(hour);
    return saltgate_pier_light_g(saltgate_pier_clamp(0.6758877802301922 * watch_night_now
                + 0.7846518148414676 * watch_morning_now
                + 0.9818072823266701 * watch_forenoon_now
                + 0.9125592497722734 * watch_evening_now, 0.6758877802301922, 0.9818072823266701),
        saltgate_pier_clamp(0.7078847675495546 * watch_night_now
                + 0.7983533337292693 * watch_morning_now
                + 0.9734847537076345 * watch_forenoon_now
                + 0.872382696771993 * watch_evening_now, 0.7078847675495546, 0.9734847537076345),
        saltgate_pier_clamp(0.8188297202235845 * watch_night_now
                + 0.7819258288945272 * watch_morning_now
                + 0.9422944153106793 * watch_forenoon_now
                + 0.7513718714261628 * watch_evening_now, 0.7513718714261628, 0.9422944153106793));
}

/* Signal, shared by all that use it -- pier.caltrin:21: phases watch (the watches of the pier's crew) */
static inline double saltgate_pier_watch_tint_b(double hour)
{
    const double watch_night_now = saltgate_pier_watch_night(hour);
    const double watch_morning_now = saltgate_pier_watch_morning(hour);
    const double watch_forenoon_now = saltgate_pier_watch_forenoon(hour);
    const double watch_evening_now = saltgate_pier_watch_evening(hour);
    return saltgate_pier_light_b(saltgate_pier_clamp(0.6758877802301922 * watch_night_now
                + 0.7846518148414676 * watch_morning_now
                + 0.9818072823266701 * watch_forenoon_now
                + 0.9125592497722734 * watch_evening_now, 0.6758877802301922, 0.9818072823266701),
        saltgate_pier_clamp(0.7078847675495546 * watch_night_now
                + 0.7983533337292693 * watch_morning_now
                + 0.9734847537076345 * watch_forenoon_now
                + 0.872382696771993 * watch_evening_now, 0.7078847675495546, 0.9734847537076345),
        saltgate_pier_clamp(0.8188297202235845 * watch_night_now
                + 0.7819258288945272 * watch_morning_now
                + 0.9422944153106793 * watch_forenoon_now
                + 0.7513718714261628 * watch_evening_now, 0.7513718714261628, 0.9422944153106793));
}

/* Signal, shared by all that use it, s -- pier.caltrin:31: sound horn = "sounds/horn.wav" { starts at
   ferry_docks } (the ferry sounds two blasts) */
static inline double saltgate_pier_horn_place(double t, double horn_at, double horn_since, bool horn_plays)
{
    return horn_plays ? horn_at + saltgate_pier_max(t - horn_since, 0.0) : horn_at;
}

/* Signal, shared by all that use it, s -- pier.caltrin:32: sound ratchet = "sounds/winch.wav" { speed haul
   } */
static inline double saltgate_pier_ratchet_place(double t, double haul, double ratchet_at,
    double ratchet_since, double ratchet_rate)
{
    return ratchet_at
        + saltgate_pier_max(t - ratchet_since, 0.0)
            * saltgate_pier_max(ratchet_rate > -0.5 ? ratchet_rate : haul, 0.0);
}

/* Signal, shared by all that use it -- pier.caltrin:36: switch power (power from the generator) */
static inline double saltgate_pier_power(double t, bool power_on, double power_since, double power_from)
{
    return power_on
        ? (power_since + 2.0 > t
            ? saltgate_pier_lerp(power_from, 1.0,
                saltgate_pier_ease_smooth(saltgate_pier_clamp((t - power_since) / 2.0, 0.0, 1.0)))
            : 1.0)
        : power_since + 0.06 > t
        ? saltgate_pier_lerp(power_from, 0.0, saltgate_pier_clamp((t - power_since) / 0.06, 0.0, 1.0))
        : 0.0;
}

/* Signal, shared by all that use it -- pier.caltrin:42: modes warning (state of the sea) */
static inline double saltgate_pier_warning_watch(double t, double warning_mode, double warning_entered,
    double warning_way, double warning_from_watch)
{
    const bool odd_one = warning_way == 0.0;
    const bool odd_one_2 = warning_way == 1.0;
    const double part = warning_mode == 1.0 ? 1.0 : 0.0;
    return (odd_one
            ? warning_entered + 3.0 > t
            : odd_one_2
            ? warning_entered + 0.4 > t
            : warning_entered + 5.0 > t)
        ? saltgate_pier_lerp(warning_from_watch, part,
            odd_one
                ? saltgate_pier_clamp((t - warning_entered) / 3.0, 0.0, 1.0)
                : odd_one_2
                ? saltgate_pier_clamp((t - warning_entered) / 0.4, 0.0, 1.0)
                : saltgate_pier_clamp((t - warning_entered) / 5.0, 0.0, 1.0))
        : part;
}

/* Signal, shared by all that use it -- pier.caltrin:42: modes warning (state of the sea) */
static inline double saltgate_pier_warning_alarm(double t, double warning_mode, double warning_entered,
    double warning_way, double warning_from_alarm)
{
    const bool odd_one = warning_way == 0.0;
    const bool odd_one_2 = warning_way == 1.0;
    const double part = warning_mode == 2.0 ? 1.0 : 0.0;
    return (odd_one
            ? warning_entered + 3.0 > t
            : odd_one_2
            ? warning_entered + 0.4 > t
            : warning_entered + 5.0 > t)
        ? saltgate_pier_lerp(warning_from_alarm, part,
            odd_one
                ? saltgate_pier_clamp((t - warning_entered) / 3.0, 0.0, 1.0)
                : odd_one_2
                ? saltgate_pier_clamp((t - warning_entered) / 0.4, 0.0, 1.0)
                : saltgate_pier_clamp((t - warning_entered) / 5.0, 0.0, 1.0))
        : part;
}

/* Curve over x seconds -- pier.caltrin:52: curve hunting (the generator hunts for its speed, 7.3 s per
   cycle) */
static inline double saltgate_pier_hunting(double x)
{
    if (x < 1.4) return 1.0;
    if (x < 1.85) {
        return 1.0 - 0.18000000000000005 * saltgate_pier_ease_smooth((x - 1.4) / 0.4500000000000002);
    }
    if (x < 2.5) {
        return 0.82 + 0.30000000000000016 * saltgate_pier_ease_smooth((x - 1.85) / 0.6499999999999999);
    }
    if (x < 3.0) {
        return saltgate_pier_lerp(1.12, 0.95,
            saltgate_pier_ease_baked(saltgate_pier_spread_ends((x - 2.5) / 0.5),
                saltgate_pier_ease_out_pieces, 16));
    }
    if (x < 3.7) {
        return 0.95 + 0.050000000000000044 * saltgate_pier_ease_smooth((x - 3.0) / 0.7000000000000002);
    }
    return 1.0;
}

/* Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height of the sun, gray-green
   before noon) */
static inline double saltgate_pier_morning_l(double x)
{
    if (x < -9.0) return 0.1832537775717708;
    if (x < -3.0) {
        return 0.1832537775717708 + 0.19452205585044774 * saltgate_pier_ease_smooth((x + 9.0) / 6.0);
    }
    if (x < 2.0) return 0.37777583342221854 + 0.3100063341823164 * saltgate_pier_ease_smooth((x + 3.0) / 5.0);
    if (x < 9.0) return 0.6877821676045349 + 0.0823375253538956 * ((x - 2.0) / 7.0);
    if (x < 25.0) return 0.7701196929584305 + 0.0451418317144755 * ((x - 9.0) / 16.0);
    return 0.815261524672906;
}

/* Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height of the sun, gray-green
   before noon) */
static inline double saltgate_pier_morning_m(double x)
{
    if (x < -9.0) return 0.19279209182171184;
    if (x < -3.0) {
        return 0.19279209182171184 + 0.1970373006888795 * saltgate_pier_ease_smooth((x + 9.0) / 6.0);
    }
    if (x < 2.0) {
        return 0.38982939251059134 + 0.30830698829985115 * saltgate_pier_ease_smooth((x + 3.0) / 5.0);
    }
    if (x < 9.0) return 0.6981363808104425 + 0.08233100640067303 * ((x - 2.0) / 7.0);
    if (x < 25.0) return 0.7804673872111155 + 0.045246800169307155 * ((x - 9.0) / 16.0);
    return 0.8257141873804227;
}

/* Curve over x degrees -- pier.caltrin:62: curve morning (the sky by the height of the sun, gray-green
   before noon) */
static inline double saltgate_pier_morning_s(double x)
{
    if (x < -9.0) return 0.22522903602175648;
    if (x < -3.0) return 0.22522903602175648 + 0.182928683999867 * saltgate_pier_ease_smooth((x + 9.0) / 6.0);
    if (x < 2.0) return 0.4081577200216235 + 0.2755264654602965 * saltgate_pier_ease_smooth((x + 3.0) / 5.0);
    if (x < 9.0) return 0.68368418548192 + 0.09062253576762525 * ((x - 2.0) / 7.0);
    if (x < 25.0) return 0.7743067212495452 + 0.06848678914401352 * ((x - 9.0) / 16.0);
    return 0.8427935103935588;
}

/* Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it) */
static inline double saltgate_pier_evening_l(double x)
{
    if (x < -9.0) return 0.1832537775717708;
    if (x < -3.0) {
        return 0.1832537775717708 + 0.19377461856794748 * saltgate_pier_ease_smooth((x + 9.0) / 6.0);
    }
    if (x < 2.0) return 0.3770283961397183 + 0.3057765626714638 * saltgate_pier_ease_smooth((x + 3.0) / 5.0);
    if (x < 9.0) return 0.6828049588111821 + 0.0856242707120295 * ((x - 2.0) / 7.0);
    if (x < 25.0) return 0.7684292295232116 + 0.04683229514969445 * ((x - 9.0) / 16.0);
    return 0.815261524672906;
}

/* Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it) */
static inline double saltgate_pier_evening_m(double x)
{
    if (x < -9.0) return 0.19279209182171184;
    if (x < -3.0) {
        return 0.19279209182171184 + 0.16980416577719135 * saltgate_pier_ease_smooth((x + 9.0) / 6.0);
    }
    if (x < 2.0) return 0.3625962575989032 + 0.28484235797777474 * saltgate_pier_ease_smooth((x + 3.0) / 5.0);
    if (x < 9.0) return 0.6474386155766779 + 0.09816269870779493 * ((x - 2.0) / 7.0);
    if (x < 25.0) return 0.7456013142844728 + 0.08011287309594983 * ((x - 9.0) / 16.0);
    return 0.8257141873804227;
}

/* Curve over x degrees -- pier.caltrin:70: curve evening (and brass after it) */
static inline double saltgate_pier_evening_s(double x)
{
    if (x < -9.0) return 0.22522903602175648;
    if (x < -3.0) {
        return 0.22522903602175648 + 0.1206337029642604 * saltgate_pier_ease_smooth((x + 9.0) / 6.0);
    }
    if (x < 2.0) return 0.3458627389860169 + 0.18241108266769185 * saltgate_pier_ease_smooth((x + 3.0) / 5.0);
    if (x < 9.0) return 0.5282738216537087 + 0.13355474136133627 * ((x - 2.0) / 7.0);
    if (x < 25.0) return 0.661828563015045 + 0.18096494737851376 * ((x - 9.0) / 16.0);
    return 0.8427935103935588;
}

/* Curve over x seconds -- pier.caltrin:78: curve breathing */
static inline double saltgate_pier_breathing(double x)
{
    if (x < 2.3) {
        return saltgate_pier_lerp(0.18, 1.0,
            saltgate_pier_ease_baked(x / 2.3, saltgate_pier_ease_in_out_pieces, 8));
    }
    if (x < 3.1) {
        return 1.0
            + -0.07999999999999996
                * saltgate_pier_ease_baked((x - 2.3) / 0.8000000000000003, saltgate_pier_bezier_3_pieces, 16);
    }
    return 0.92;
}

/* Curve over x seconds -- pier.caltrin:84: curve warming (a cold tube strikes twice, then warms up) */
static inline double saltgate_pier_warming(double x)
{
    if (x < 0.3) return 0.0;
    if (x < 0.36) return 0.7;
    if (x < 1.1) return 0.05;
    if (x < 1.3) {
        return 0.6 - 0.19999999999999996 * saltgate_pier_ease_smooth((x - 1.1) / 0.19999999999999996);
    }
    if (x < 9.0) {
        return saltgate_pier_lerp(0.4, 1.0,
            saltgate_pier_ease_baked(saltgate_pier_spread_ends((x - 1.3) / 7.7),
                saltgate_pier_ease_out_pieces, 16));
    }
    return 1.0;
}

/* Curve over x seconds -- pier.caltrin:93: curve striking (a warm tube goes out, flashes and strikes
   again) */
static inline double saltgate_pier_striking(double x)
{
    if (x < 0.26) return 0.0;
    if (x < 0.33) return 0.75;
    if (x < 0.61) return 0.04;
    return 1.0;
}

/* Curve over x as a number -- pier.caltrin:100: curve fading (a star shell: full at once, then fading to
   nothing) */
static inline double saltgate_pier_fading(double x)
{
    if (x < 0.0) return 0.0;
    if (x < 0.06) {
        return saltgate_pier_lerp(0.0, 1.0,
            saltgate_pier_ease_baked(saltgate_pier_spread_ends(x / 0.06), saltgate_pier_ease_out_pieces, 16));
    }
    if (x < 0.45) return 1.0 - 0.19999999999999996 * ((x - 0.06) / 0.39);
    if (x < 1.0) return 0.8 - 0.8 * saltgate_pier_ease_smooth((x - 0.45) / 0.55);
    return 0.0;
}

/* Curve over x seconds -- pier.caltrin:107: curve opening (the lamp at the gate flashes when it opens, and
   stays on) */
static inline double saltgate_pier_opening(double x)
{
    if (x < 0.0) return 0.0;
    if (x < 0.15) {
        return saltgate_pier_lerp(0.0, 1.0,
            saltgate_pier_ease_baked(saltgate_pier_spread_ends(x / 0.15), saltgate_pier_ease_out_pieces, 16));
    }
    if (x < 0.4) return 1.0 - 0.7 * saltgate_pier_ease_smooth((x - 0.15) / 0.25);
    if (x < 0.7) return 0.3 + 0.7 * saltgate_pier_ease_smooth((x - 0.4) / 0.29999999999999993);
    if (x < 14.0) return 1.0;
    if (x < 17.0) return 1.0 - saltgate_pier_ease_smooth((x - 14.0) / 3.0);
    return 0.0;
}

/* Signal, shared by all that use it -- pier.caltrin:116: signal supply = loop(hunting) */
static inline double saltgate_pier_supply(double t)
{
    return saltgate_pier_hunting(saltgate_pier_wrap_time(t, 7.3));
}

/* Signal, shared by all that use it -- pier.caltrin:117: signal afternoon = map(sun.azimuth, from
   160deg..200deg, to 0%..100%, smooth) */
static inline double saltgate_pier_afternoon(double hour, double season)
{
    return saltgate_pier_lerp(0.0, 1.0,
        saltgate_pier_ease_smooth(saltgate_pier_clamp((saltgate_pier_sun_azimuth(hour, season) - 160.0)
                    / 40.0, 0.0, 1.0)));
}

/* Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky = mix(morning(sun.height),
   evening(sun.height), by afternoon) */
static inline double saltgate_pier_clear_sky_r(double hour, double season)
{
    const double sun_height_now = saltgate_pier_sun_height(hour, season);
    const double afternoon_now = saltgate_pier_afternoon(hour, season);
    return saltgate_pier_light_r(saltgate_pier_lerp(saltgate_pier_morning_l(sun_height_now),
            saltgate_pier_evening_l(sun_height_now), afternoon_now),
        saltgate_pier_lerp(saltgate_pier_morning_m(sun_height_now), saltgate_pier_evening_m(sun_height_now),
            afternoon_now),
        saltgate_pier_lerp(saltgate_pier_morning_s(sun_height_now), saltgate_pier_evening_s(sun_height_now),
            afternoon_now));
}

/* Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky = mix(morning(sun.height),
   evening(sun.height), by afternoon) */
static inline double saltgate_pier_clear_sky_g(double hour, double season)
{
    const double sun_height_now = saltgate_pier_sun_height(hour, season);
    const double afternoon_now = saltgate_pier_afternoon(hour, season);
    return saltgate_pier_light_g(saltgate_pier_lerp(saltgate_pier_morning_l(sun_height_now),
            saltgate_pier_evening_l(sun_height_now), afternoon_now),
        saltgate_pier_lerp(saltgate_pier_morning_m(sun_height_now), saltgate_pier_evening_m(sun_height_now),
            afternoon_now),
        saltgate_pier_lerp(saltgate_pier_morning_s(sun_height_now), saltgate_pier_evening_s(sun_height_now),
            afternoon_now));
}

/* Signal, shared by all that use it -- pier.caltrin:118: signal clear_sky = mix(morning(sun.height),
   evening(sun.height), by afternoon) */
static inline double saltgate_pier_clear_sky_b(double hour, double season)
{
    const double sun_height_now = saltgate_pier_sun_height(hour, season);
    const double afternoon_now = saltgate_pier_afternoon(hour, season);
    return saltgate_pier_light_b(saltgate_pier_lerp(saltgate_pier_morning_l(sun_height_now),
            saltgate_pier_evening_l(sun_height_now), afternoon_now),
        saltgate_pier_lerp(saltgate_pier_morning_m(sun_height_now), saltgate_pier_evening_m(sun_height_now),
            afternoon_now),
        saltgate_pier_lerp(saltgate_pier_morning_s(sun_height_now), saltgate_pier_evening_s(sun_height_now),
            afternoon_now));
}

/* Signal, shared by all that use it -- pier.caltrin:119: signal sky = pick(weather, fair clear_sky,
   overcast mix(#0b0f14, #77858d, by sun.daylight)) */
static inline double saltgate_pier_sky_r(double hour, double season, double weather_overcast)
{
    const double clear_sky_now_r = saltgate_pier_clear_sky_r(hour, season);
    const double clear_sky_now_g = saltgate_pier_clear_sky_g(hour, season);
    const double clear_sky_now_b = saltgate_pier_clear_sky_b(hour, season);
    const double sun_daylight_now = saltgate_pier_sun_daylight(hour, season);
    return saltgate_pier_light_r(saltgate_pier_lerp(saltgate_pier_cone_l(clear_sky_now_r, clear_sky_now_g,
                clear_sky_now_b),
            saltgate_pier_lerp(0.16263142285853904, 0.5995780250315662, sun_daylight_now), weather_overcast),
        saltgate_pier_lerp(saltgate_pier_cone_m(clear_sky_now_r, clear_sky_now_g, clear_sky_now_b),
            saltgate_pier_lerp(0.16765047234679506, 0.6103349854360245, sun_daylight_now), weather_overcast),
        saltgate_pier_lerp(saltgate_pier_cone_s(clear_sky_now_r, clear_sky_now_g, clear_sky_now_b),
            saltgate_pier_lerp(0.18219759144761766, 0.6300993101954723, sun_daylight_now), weather_overcast));
}

/* Signal, shared by all that use it -- pier.caltrin:119: signal sky = pick(weather, fair clear_sky,
   overcast mix(#0b0f14, #77858d, by sun.daylight)) */
static inline double saltgate_pier_sky_g(double hour, double season, double weather_overcast)
{
    const double clear_sky_now_r = saltgate_pier_clear_sky_r(hour, season);
    const double clear_sky_now_g = saltgate_pier_clear_sky_g(hour, season);
    const double clear_sky_now_b = saltgate_pier_clear_sky_b(hour, season);
    const double sun_daylight_now = saltgate_pier_sun_daylight(hour, season);
    return saltgate_pier_light_g(saltgate_pier_lerp(saltgate_pier_cone_l(clear_sky_now_r, clear_sky_now_g,
                clear_sky_now_b),
            saltgate_pier_lerp(0.16263142285853904, 0.5995780250315662, sun_daylight_now), weather_overcast),
        saltgate_pier_lerp(saltgate_pier_cone_m(clear_sky_now_r, clear_sky_now_g, clear_sky_now_b),
            saltgate_pier_lerp(0.16765047234679506, 0.6103349854360245, sun_daylight_now), weather_overcast),
        saltgate_pier_lerp(saltgate_pier_cone_s(clear_sky_now_r, clear_sky_now_g, clear_sky_now_b),
            saltgate_pier_lerp(0.18219759144761766, 0.6300993101954723, sun_daylight_now), weather_overcast));
}

/* Signal, shared by all that use it -- pier.caltrin:119: signal sky = pick(weather, fair clear_sky,
   overcast mix(#0b0f14, #77858d, by sun.daylight)) */
static inline double saltgate_pier_sky_b(double hour, double season, double weather_overcast)
{
    const double clear_sky_now_r = saltgate_pier_clear_sky_r(hour, season);
    const double clear_sky_now_g = saltgate_pier_clear_sky_g(hour, season);
    const double clear_sky_now_b = saltgate_pier_clear_sky_b(hour, season);
    const double sun_daylight_now = saltgate_pier_sun_daylight(hour, season);
    return saltgate_pier_light_b(saltgate_pier_lerp(saltgate_pier_cone_l(clear_sky_now_r, clear_sky_now_g,
                clear_sky_now_b),
            saltgate_pier_lerp(0.16263142285853904, 0.5995780250315662, sun_daylight_now), weather_overcast),
        saltgate_pier_lerp(saltgate_pier_cone_m(clear_sky_now_r, clear_sky_now_g, clear_sky_now_b),
            saltgate_pier_lerp(0.16765047234679506, 0.6103349854360245, sun_daylight_now), weather_overcast),
        saltgate_pier_lerp(saltgate_pier_cone_s(clear_sky_now_r, clear_sky_now_g, clear_sky_now_b),
            saltgate_pier_lerp(0.18219759144761766, 0.6300993101954723, sun_daylight_now), weather_overcast));
}

/* Signal, shared by all that use it -- pier.caltrin:120: signal overhead = sun.daylight * pick(weather,
   fair 100%, overcast 35%) */
static inline double saltgate_pier_overhead(double hour, double season, double weather_overcast)
{
    return saltgate_pier_sun_daylight(hour, season) * saltgate_pier_lerp(1.0, 0.35, weather_overcast);
}

/* Signal, shared by all that use it -- pier.caltrin:122: signal blare = follow(horn, attack 20ms, release
   280ms) */
static inline double saltgate_pier_blare(double t, double horn_at, double horn_since, bool horn_plays,
    double horn_changed, double blare_horn_follow_0_from)
{
    return saltgate_pier_max(horn_plays
            ? saltgate_pier_envelope_level(saltgate_pier_horn_place(t, horn_at, horn_since, horn_plays)
                    * 3840.0, saltgate_pier_horn_envelope, 48)
            : 0.0, blare_horn_follow_0_from * saltgate_pier_decay((t - horn_changed) / 0.28));
}

/* Signal, shared by all that use it -- pier.caltrin:123: signal stroke = follow(buoy, measure peak, attack
   4ms, release 450ms) */
static inline double saltgate_pier_stroke(double t)
{
    return saltgate_pier_envelope_level(saltgate_pier_wrap_time(t, 7.5) * 3840.0, saltgate_pier_buoy_envelope,
        54);
}

/* Behavior, a copy for each use -- pier.caltrin:128: behavior buzzing(floor = 85%) = held(floor..100%,
   every 60ms..240ms) */
static inline double saltgate_pier_buzzing(double t, uint32_t key, double floor)
{
    return saltgate_pier_lerp(floor, 1.0,
        saltgate_pier_held_level(t, saltgate_pier_chance_key(key, 0xc3f69953u), 6.666666666666667, 0.3));
}

/* Behavior, a copy for each use -- pier.caltrin:130: behavior guttering(depth = 35%, draft = 400ms) */
static inline double saltgate_pier_guttering(double t, uint32_t key, double depth, double draft)
{
    const double flame = 0.8
        + 0.19999999999999996
            * saltgate_pier_held_level(t, saltgate_pier_chance_key(key, 0xd2611993u), 7.142857142857142,
                0.24999999999999994);
    const double longest = draft * 5.0;
    const double sum = draft + longest;
    const double gust = saltgate_pier_soft_level(t, saltgate_pier_chance_key(key, 0xfd5749adu), 2.0 / sum,
        (longest - draft) / (2.0 * sum), 0.3);
    return flame
        * (1.0 - depth * saltgate_pier_ease_smooth(saltgate_pier_clamp((gust - 0.72) / 0.12, 0.0, 1.0)));
}

/* Curve over x seconds */
static inline double saltgate_pier_harbor_light_rhythm(double x)
{
    if (x < 0.4) return 1.0;
    if (x < 1.2000000000000002) return 0.0;
    if (x < 1.6) return 1.0;
    if (x < 6.0) return 0.0;
    return 1.0;
}

/* Signal, shared by all that use it, s -- pier.caltrin:254: sequence docking at ferry_docks (the gangway
   is lit while passengers board) */
static inline double saltgate_pier_docking_at(double t, double docking_started)
{
    return docking_started > -1.5e9
        ? saltgate_pier_max(t - docking_started,
            docking_started + 1.0 > t
                ? 0.0
                : docking_started + 2.5 > t
                ? 1.0
                : docking_started + 16.0 > t
                ? 2.5
                : docking_started + 18.0 > t
                ? 16.0
                : docking_started + 20.0 > t
                ? 18.0
                : docking_started + 24.0 > t
                ? 20.0
                : 24.0)
        : -1.0;
}

/* Curve over x seconds */
static inline double saltgate_pier_docking_gangway_color_l(double x)
{
    if (x < 0.0) return 0.9010167023289669;
    if (x < 1.0) return 0.9010167023289669 - 0.03697220558852521 * saltgate_pier_ease_smooth(x);
    return 0.8640444967404417;
}

/* Curve over x seconds */
static inline double saltgate_pier_docking_gangway_color_m(double x)
{
    if (x < 0.0) return 0.8563551629324132;
    if (x < 1.0) return 0.8563551629324132 - 0.058741602712659935 * saltgate_pier_ease_smooth(x);
    return 0.7976135602197533;
}

/* Curve over x seconds */
static inline double saltgate_pier_docking_gangway_color_s(double x)
{
    if (x < 0.0) return 0.744272310693046;
    if (x < 1.0) return 0.744272310693046 - 0.14930352621124554 * saltgate_pier_ease_smooth(x);
    return 0.5949687844818005;
}

/* Curve over x seconds */
static inline double saltgate_pier_docking_weight(double x)
{
    if (x < 20.0) return 1.0;
    if (x < 24.0) return 1.0 - saltgate_pier_ease_smooth((x - 20.0) / 4.0);
    return 0.0;
}

/* Curve over x seconds */
static inline double saltgate_pier_docking_weight_2(double x)
{
    if (x < 1.0) return 0.0;
    if (x < 20.0) return 1.0;
    if (x < 24.0) return 1.0 - saltgate_pier_ease_smooth((x - 20.0) / 4.0);
    return 0.0;
}

/* Curve over x seconds */
static inline double saltgate_pier_warning_lamp_rhythm(double x)
{
    if (x < 0.3) return 1.0;
    if (x < 1.0) return 0.0;
    return 1.0;
}

/* A word of bytes, little endian on every machine. */
static inline uint32_t saltgate_pier_word_at(const uint8_t *bytes, uint32_t at)
{
    bytes += at;
    return bytes[0] | (uint32_t)bytes[1] << 8 | (uint32_t)bytes[2] << 16 | (uint32_t)bytes[3] << 24;
}

static inline void saltgate_pier_put_word(uint8_t *bytes, uint32_t at, uint32_t word)
{
    for (uint32_t n = 0; n < 4; ++n) bytes[at + n] = (uint8_t)(word >> 8 * n);
}

/* A count of a run as a whole number of at most so many, also of a run that was never started. */
static inline uint32_t saltgate_pier_counted(double count, uint32_t most)
{
    if (count > 0.0 && count < (double)most) return saltgate_pier_cell_index(saltgate_pier_round_down(count));
    return count > 0.0 ? most : 0u;
}

/* The index of the option with this key; 0 if there is none. */
static inline uint32_t saltgate_pier_option_of(uint32_t key, uint32_t first, uint32_t count)
{
    for (uint32_t n = 0u; n < count; ++n) {
        if (saltgate_pier_option_keys[first + n] == key) return n;
    }
    return 0u;
}

/* Clamps a saved number to its bounds; the default if it is not finite. */
static inline double saltgate_pier_clean_saved(double value, double lo, double hi, double first)
{
    return saltgate_pier_is_finite(value) ? saltgate_pier_clamp(value, lo, hi) : first;
}

/* A checksum of all words of a save after its header. */
static inline uint32_t saltgate_pier_save_sum(const uint8_t *bytes, uint32_t size)
{
    uint32_t sum = 0x544c4143u;
    uint32_t at = 16;
    while (at < size) {
        sum = saltgate_pier_scramble(sum ^ saltgate_pier_word_at(bytes, at));
        at += 4;
    }
    return sum;
}

/* Whether the bytes are a complete save in this version of the format, with the right checksum. */
static inline bool saltgate_pier_is_save(const uint8_t *bytes, uint32_t size)
{
    if (size < 16 || size % 4 != 0) return false;
    if (saltgate_pier_word_at(bytes, 0) != 0x544c4143u || saltgate_pier_word_at(bytes, 4) != 1u) return false;
    uint32_t at = 16;
    while (at < size) {
        if (size - at < 8) return false;
        const uint32_t head = saltgate_pier_word_at(bytes, at + 4);
        uint32_t each = 4;
        if ((head >> 24) == 1u) each = 8;
        const uint32_t count = head & 0x00ffffffu;
        at += 8;
        if (count > (size - at) / each) return false;
        at += each * count;
    }
    return saltgate_pier_word_at(bytes, 12) == saltgate_pier_save_sum(bytes, size);
}

/* Adds a value to a checksum. */
static inline uint32_t saltgate_pier_checksum(uint32_t sum, double value)
{
    return saltgate_pier_scramble(sum ^ saltgate_pier_high_bits(value) ^ saltgate_pier_low_bits(value));
}

/* Keeps where a lamp of fog_lamp is. */
static inline void saltgate_pier_notice_place_fog_lamp(saltgate_pier_run *run, uint32_t at, uint32_t lamp)
{
    run->notice_positions[at][0] = (double)(float)(4.0 + 18.0 * (double)lamp);
    run->notice_positions[at][1] = 4.0;
    run->notice_positions[at][2] = -3.0;
}

/* Lets a notice wait until the host takes it, if there is room. */
static inline void saltgate_pier_send(saltgate_pier_run *run, uint32_t line, double text, uint32_t lamp,
    double value_loud, double value_within)
{
    const uint32_t count = saltgate_pier_counted(run->notice_count, 32u);
    if (count == 32u) {
        run->notice_dropped += 1.0;
        return;
    }
    const uint32_t at = (saltgate_pier_counted(run->notice_first, 31u) + count) % 32u;
    run->notice_count = (double)(count + 1u);
    run->notice_moments[at] = run->now;
    run->notice_packed[at] = ((double)line * 64.0 + text) * 1048576.0 + (double)lamp;
    run->notice_value_loud[at] = value_loud;
    run->notice_value_within[at] = value_within;
    if (line == 1u) {
        saltgate_pier_notice_place_fog_lamp(run, at, lamp);
    } else {
        run->notice_positions[at][0] = 0.0;
        run->notice_positions[at][1] = 0.0;
        run->notice_positions[at][2] = 0.0;
    }
}

/* Index of a spark of `star_shell` that is free: the lowest that does not live, else the oldest. */
static inline double saltgate_pier_free_star_shell(const saltgate_pier_run *run)
{
    uint32_t oldest = 0;
    for (uint32_t n = 0; n < 6; ++n) {
        if (run->star_shell_born[n] + run->star_shell_length[n] <= run->now) return (double)n;
        if (run->star_shell_born[n] < run->star_shell_born[oldest]) oldest = n;
    }
    return (double)oldest;
}

/* Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
   game fires these) */
SALTGATE_PIER_API void saltgate_pier_fire_ferry_docks(saltgate_pier_run *run)
{
    const double t = run->now;
    const double docking_started = run->docking_started;
    const double next_blare_horn_follow_0_from = saltgate_pier_max(run->horn_plays
            ? saltgate_pier_envelope_level(saltgate_pier_horn_place(t, run->horn_at, run->horn_since,
                        run->horn_plays)
                    * 3840.0, saltgate_pier_horn_envelope, 48)
            : 0.0, run->blare_horn_follow_0_from * saltgate_pier_decay((t - run->horn_changed) / 0.28));
    const bool turns = !(docking_started > -1.5e9 && docking_started + 24.0 > t);
    run->horn_at = 0.0;
    run->horn_since = t;
    run->horn_changed = t;
    run->horn_plays = true;
    run->blare_horn_follow_0_from = next_blare_horn_follow_0_from;
    run->blast_passed = -1e-9;
    if (turns) run->docking_started = t;
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
   game fires these) */
SALTGATE_PIER_API void saltgate_pier_fire_power_cut(saltgate_pier_run *run)
{
    const double t = run->now;
    const bool turns = run->power_on;
    const double next_power_from = saltgate_pier_power(t, run->power_on, run->power_since, run->power_from);
    if (turns) {
        run->power_on = false;
        run->power_since = t;
        run->power_from = next_power_from;
    }
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
   game fires these) */
SALTGATE_PIER_API void saltgate_pier_fire_power_back(saltgate_pier_run *run)
{
    const double t = run->now;
    const bool turns = !run->power_on;
    const double next_power_from = saltgate_pier_power(t, run->power_on, run->power_since, run->power_from);
    if (turns) {
        run->power_on = true;
        run->power_since = t;
        run->power_from = next_power_from;
    }
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Event, fired by the game -- pier.caltrin:28: event ferry_docks, power_cut, power_back, all_clear (the
   game fires these) */
SALTGATE_PIER_API void saltgate_pier_fire_all_clear(saltgate_pier_run *run)
{
    const double t = run->now;
    const bool turns = !(run->warning_mode == 0.0);
    const double next_warning_from_watch = saltgate_pier_warning_watch(t, run->warning_mode,
        run->warning_entered, run->warning_way, run->warning_from_watch);
    const double next_warning_from_alarm = saltgate_pier_warning_alarm(t, run->warning_mode,
        run->warning_entered, run->warning_way, run->warning_from_alarm);
    if (turns) {
        run->warning_mode = 0.0;
        run->warning_entered = t;
        run->warning_from_watch = next_warning_from_watch;
        run->warning_from_alarm = next_warning_from_alarm;
        run->warning_way = 2.0;
    }
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* Event, fired by the game with place (m), tint (linear Rec. 709) -- pier.caltrin:29: event rocket(place =
   (30m, 40m, -60m), tint = #ffffff) (a star shell bursts over the water) */
SALTGATE_PIER_API void saltgate_pier_fire_rocket(saltgate_pier_run *run, double place_x, double place_y,
    double place_z, double tint_r, double tint_g, double tint_b)
{
    const double t = run->now;
    run->rocket_place[0] = saltgate_pier_clean_input(place_x, -1e6, 1e6, 30.0);
    run->rocket_place[1] = saltgate_pier_clean_input(place_y, -1e6, 1e6, 40.0);
    run->rocket_place[2] = saltgate_pier_clean_input(place_z, -1e6, 1e6, -60.0);
    run->rocket_tint[0] = saltgate_pier_clean_input(tint_r, 0.0, 1.0, 1.0);
    run->rocket_tint[1] = saltgate_pier_clean_input(tint_g, 0.0, 1.0, 1.0);
    run->rocket_tint[2] = saltgate_pier_clean_input(tint_b, 0.0, 1.0, 1.0);
    const double star_shell_count = run->star_shell_count;
    const double then = star_shell_count;
    const double slot = saltgate_pier_free_star_shell(run);
    const double next_star_shell_length = saltgate_pier_lerp(5.0, 7.0,
        saltgate_pier_steady_level(then, saltgate_pier_chance_key(run->seed, 0x5da0a4f2u), 1.0));
    const double next_star_shell_place_x = run->rocket_place[0];
    const double next_star_shell_place_y = run->rocket_place[1];
    const double next_star_shell_place_z = run->rocket_place[2];
    const double next_star_shell_tint_r = run->rocket_tint[0];
    const double next_star_shell_tint_g = run->rocket_tint[1];
    const double next_star_shell_tint_b = run->rocket_tint[2];
    const double next_star_shell_count = saltgate_pier_min(star_shell_count + 1.0, 4e9);
    const uint32_t place = (uint32_t)slot;
    run->star_shell_born[place] = t;
    run->star_shell_length[place] = next_star_shell_length;
    run->star_shell_place[place][0] = next_star_shell_place_x;
    run->star_shell_place[place][1] = next_star_shell_place_y;
    run->star_shell_place[place][2] = next_star_shell_place_z;
    run->star_shell_tint[place][0] = next_star_shell_tint_r;
    run->star_shell_tint[place][1] = next_star_shell_tint_g;
    run->star_shell_tint[place][2] = next_star_shell_tint_b;
    run->star_shell_count = next_star_shell_count;
    run->due = run->now;
    saltgate_pier_settle(run);
}

/* When `ratchet.speeds` happens next. */
static inline double saltgate_pier_due_ratchet_speeds(const saltgate_pier_run *run)
{
    const double t = run->now;
    return !(run->ratchet_rate == run->haul) ? t : 2e9;
}

/* Event, occurs by itself */
static inline void saltgate_pier_happen_ratchet_speeds(saltgate_pier_run *run)
{
    const double t = run->now;
    const double next_ratchet_rate = run->haul;
    const double next_ratchet_at = saltgate_pier_clamp(saltgate_pier_ratchet_place(t, run->haul,
            run->ratchet_at, run->ratchet_since, run->ratchet_rate), -1e9, 1e9);
    run->ratchet_rate = next_ratchet_rate;
    run->ratchet_at = next_ratchet_at;
    run->ratchet_since = t;
}

/* When `warning.rule1.look` happens next. */
static inline double saltgate_pier_due_warning_rule1_look(const saltgate_pier_run *run)
{
    const double t = run->now;
    const bool part = run->swell > 0.5;
    const bool warning_rule1_seen = run->warning_rule1_seen;
    return (part && !warning_rule1_seen) || (!part && warning_rule1_seen)
        ? saltgate_pier_max(t, saltgate_pier_next_look(run->warning_rule1_since))
        : 2e9;
}

/* Event, occurs by itself */
static inline void saltgate_pier_happen_warning_rule1_look(saltgate_pier_run *run)
{
    const double t = run->now;
    const bool part = run->swell > 0.5;
    const bool warning_rule1_seen = run->warning_rule1_seen;
    const bool turns = (part && !warning_rule1_seen) || (!part && warning_rule1_seen);
    if (turns) {
        run->warning_rule1_seen = part;
        run->warning_rule1_since = t;
    }
}

/* When `warning.rule1` happens next. */
static inline double saltgate_pier_due_warning_rule1(const saltgate_pier_run *run)
{
    const double t = run->now;
    const double warning_entered = run->warning_entered;
    return run->warning_rule1_seen && run->warning_mode == 0.0
        ? saltgate_pier_max(t,
            saltgate_pier_max(saltgate_pier_next_look(warning_entered),
                saltgate_pier_max(run->warning_rule1_since, saltgate_pier_max(warning_entered, 0.0)) + 2.0))
        : 2e9;
}

/* Event, occurs by itself */
static inline void saltgate_pier_happen_warning_rule1(saltgate_pier_run *run)
{
    const double t = run->now;
    const double next_warning_from_watch = saltgate_pier_warning_watch(t, run->warning_mode,
        run->warning_entered, run->warning_way, run->warning_from_watch);
    const double next_warning_from_alarm = saltgate_pier_warning_alarm(t, run->warning_mode,
        run->warning_entered, run->warning_way, run->warning_from_alarm);
    run->warning_mode = 1.0;
    run->warning_entered = t;
    run->warning_from_watch = next_warning_from_watch;
    run->warning_from_alarm = next_warning_from_alarm;
    run->warning_way = 0.0;
}

/* When `warning.rule2` happens next. */
static inline double saltgate_pier_due_warning_rule2(const saltgate_pier_run *run)
{
    const double t = run->now;
    return run->swell > 0.8 && run->warning_mode == 1.0
        ? saltgate_pier_max(t, saltgate_pier_next_look(run->warning_entered))
        : 2e9;
}

/* Event, occurs by itself */
static inline void saltgate_pier_happen_warning_rule2(saltgate_pier_run *run)
{
    const double t = run->now;
    const double next_warning_from_watch = saltgate_pier_warning_watch(t, run->warning_mode,
        run->warning_entered, run->warning_way, run->warning_from_watch);
    const double next_warning_from_alarm = saltgate_pier_warning_alarm(t, run->warning_mode,
        run->warning_entered, run->warning_way, run->warning_from_alarm);
    run->warning_mode = 2.0;
    run->warning_entered = t;
    run->warning_from_watch = next_warning_from_watch;
    run->warning_from_alarm = next_warning_from_alarm;
    run->warning_way = 1.0;
}

/* When `blast` happens next. */
static inline double saltgate_pier_due_blast(const saltgate_pier_run *run)
{
    const double t = run->now;
    const double part = saltgate_pier_next_place(run->blast_passed, saltgate_pier_blast_places, 1);
    return 2e9 > part && run->horn_plays
        ? saltgate_pier_max(t, run->horn_since + (part - run->horn_at))
        : 2e9;
}

/* Event, occurs by itself -- pier.caltrin:125: event blast when blare above 60% rearm below 40% */
static inline void saltgate_pier_happen_blast(saltgate_pier_run *run)
{
    const double notice0_text = run->notice0_text;
    const double notice0_sent = run->notice0_sent;
    const double then = notice0_sent;
    const double part = saltgate_pier_steady_level(then, saltgate_pier_chance_key(run->seed, 0x8e7e045eu),
            1.0)
        * 2.0;
    const double text = 0.0 > notice0_text
        ? saltgate_pier_clamp(part - saltgate_pier_wrap_time(part, 1.0), 0.0, 1.0)
        : notice0_text > 0.0
        ? 0.0
        : 1.0;
    const double then_2 = notice0_sent;
    const double next_blast_passed = saltgate_pier_next_place(run->blast_passed, saltgate_pier_blast_places,
        1);
    const double next_notice0_sent = saltgate_pier_min(notice0_sent + 1.0, 4e9);
    const double loud = saltgate_pier_lerp(0.5, 0.9,
            saltgate_pier_steady_level(then_2, saltgate_pier_chance_key(run->seed, 0x97c3dd2fu), 1.0))
        * (1.0 - 0.6 * run->mist);
    run->blast_passed = next_blast_passed;
    run->notice0_text = text;
    run->notice0_sent = next_notice0_sent;
    saltgate_pier_send(run, 0u, text, 0u, loud, 0.0);
}

/* When `fog_lamp.fault` happens next. */
static inline double saltgate_pier_due_fog_lamp_fault(const saltgate_pier_run *run, uint32_t index)
{
    const uint32_t key = saltgate_pier_chance_key(run->seed, 0xc031abeeu);
    const double fog_lamp_fault_last = run->fog_lamp_fault_last[index];
    const double then = run->fog_lamp_fault_count[index];
    return (fog_lamp_fault_last > -1.5e9 ? fog_lamp_fault_last : 0.0)
        + saltgate_pier_lerp(4.0, 21.0,
            saltgate_pier_steady_level(then, saltgate_pier_lamp_key(key, index), 1.0));
}

/* Event, occurs by itself -- pier.caltrin:150: event fault every 4s..21s (at different moments for each
   tube) */
static inline void saltgate_pier_happen_fog_lamp_fault(saltgate_pier_run *run, uint32_t index)
{
    const double t = run->now;
    const uint32_t key = saltgate_pier_chance_key(run->seed, 0x52b93c79u);
    const uint32_t key_2 = saltgate_pier_chance_key(run->seed, 0x17a9cc27u);
    const double notice1_text = run->notice1_text[index];
    const double notice1_sent = run->notice1_sent[index];
    const double then = notice1_sent;
    const double part = saltgate_pier_steady_level(then, saltgate_pier_lamp_key(key, index), 1.0);
    const double part_2 = part * 3.0;
    const double part_3 = part * 2.0;
    const double part_4 = saltgate_pier_clamp(part_3 - saltgate_pier_wrap_time(part_3, 1.0), 0.0, 1.0);
    const double text = 0.0 > notice1_text
        ? saltgate_pier_clamp(part_2 - saltgate_pier_wrap_time(part_2, 1.0), 0.0, 2.0)
        : notice1_text > part_4
        ? part_4
        : part_4 + 1.0;
    const double then_2 = notice1_sent;
    const double next_fog_lamp_fault_count = saltgate_pier_min(run->fog_lamp_fault_count[index] + 1.0, 4e9);
    const double next_notice1_sent = saltgate_pier_min(notice1_sent + 1.0, 4e9);
    const double loud = saltgate_pier_lerp(0.4, 0.8,
        saltgate_pier_steady_level(then_2, saltgate_pier_lamp_key(key_2, index), 1.0));
    run->fog_lamp_fault_last[index] = t;
    run->fog_lamp_fault_count[index] = next_fog_lamp_fault_count;
    run->notice1_text[index] = text;
    run->notice1_sent[index] = next_notice1_sent;
    saltgate_pier_send(run, 1u, text, index, loud, 12.0);
}

/* When `gate_opens` happens next. */
static inline double saltgate_pier_due_gate_opens(const saltgate_pier_run *run)
{
    const double docking_started = run->docking_started;
    const double part = docking_started + 4.0;
    return docking_started > -1.5e9 && part > run->gate_opens_last ? part : 2e9;
}

/* Event, occurs by itself -- pier.caltrin:257: +1.5s mark gate_opens */
static inline void saltgate_pier_happen_gate_opens(saltgate_pier_run *run)
{
    const double t = run->now;
    run->gate_opens_last = t;
}

/* Advances to a moment of the run, in seconds since its start. Returns false if events are left for the
   next call. */
SALTGATE_PIER_API bool saltgate_pier_advance(saltgate_pier_run *run, double to)
{
    const double end = saltgate_pier_clean_moment(to);
    const bool back = end < run->now;
    if (!back && end < run->due) {
        run->now = end;
        return true;
    }
    for (uint32_t pass = 0; pass < 10000; ++pass) {
        double next = saltgate_pier_due_ratchet_speeds(run);
        uint32_t which = 0u;
        uint32_t index = 0u;
        const double warning_rule1_look_due = saltgate_pier_due_warning_rule1_look(run);
        if (warning_rule1_look_due < next) {
            next = warning_rule1_look_due;
            which = 1u;
        }
        const double warning_rule1_due = saltgate_pier_due_warning_rule1(run);
        if (warning_rule1_due < next) {
            next = warning_rule1_due;
            which = 2u;
        }
        const double warning_rule2_due = saltgate_pier_due_warning_rule2(run);
        if (warning_rule2_due < next) {
            next = warning_rule2_due;
            which = 3u;
        }
        const double blast_due = saltgate_pier_due_blast(run);
        if (blast_due < next) {
            next = blast_due;
            which = 4u;
        }
        for (uint32_t k = 0u; k < 3u; ++k) {
            const double fog_lamp_fault_due = saltgate_pier_due_fog_lamp_fault(run, k);
            if (fog_lamp_fault_due < next) {
                next = fog_lamp_fault_due;
                which = 5u;
                index = k;
            }
        }
        const double gate_opens_due = saltgate_pier_due_gate_opens(run);
        if (gate_opens_due < next) {
            next = gate_opens_due;
            which = 6u;
        }
        if (next > end) {
            run->due = back ? end : next;
            run->now = end;
            return true;
        }
        run->now = next;
        switch (which) {
            case 0: saltgate_pier_happen_ratchet_speeds(run); break;
            case 1: saltgate_pier_happen_warning_rule1_look(run); break;
            case 2: saltgate_pier_happen_warning_rule1(run); break;
            case 3: saltgate_pier_happen_warning_rule2(run); break;
            case 4: saltgate_pier_happen_blast(run); break;
            case 5: saltgate_pier_happen_fog_lamp_fault(run, index); break;
            default: saltgate_pier_happen_gate_opens(run); break;
        }
    }
    run->due = end;
    run->now = end;
    return false;
}

/* Advances by some seconds. Steps add up their rounding errors; `advance` does not. */
SALTGATE_PIER_API bool saltgate_pier_step(saltgate_pier_run *run, double seconds)
{
    return saltgate_pier_advance(run, run->now + seconds);
}

/* Processes events that are due at this moment, after an action of the game and at moment 0. */
static inline void saltgate_pier_settle(saltgate_pier_run *run)
{
    if (run->now > 0.0) saltgate_pier_advance(run, run->now);
}

/* The n-th value of a saved field. */
static inline double saltgate_pier_saved_value(const saltgate_pier_run *run, uint32_t field, uint32_t n)
{
    switch (field) {
        case 0: return run->now;
        case 1: return (double)run->seed;
        case 2: return run->clock_hour;
        case 3: return run->clock_days;
        case 4: return run->clock_since;
        case 5: return run->clock_rate;
        case 6: return (double)saltgate_pier_option_keys[0 + run->weather];
        case 7: return run->weather_since;
        case 8: return run->weather_from[0];
        case 9: return run->weather_from[1];
        case 10: return run->mist;
        case 11: return run->swell;
        case 12: return run->season;
        case 13: return run->haul;
        case 14: return run->rocket_place[0];
        case 15: return run->rocket_place[1];
        case 16: return run->rocket_place[2];
        case 17: return run->rocket_tint[0];
        case 18: return run->rocket_tint[1];
        case 19: return run->rocket_tint[2];
        case 20: return run->horn_at;
        case 21: return run->horn_since;
        case 22: return run->horn_plays ? 1.0 : 0.0;
        case 23: return run->horn_changed;
        case 24: return run->ratchet_at;
        case 25: return run->ratchet_since;
        case 26: return run->ratchet_rate;
        case 27: return run->power_on ? 1.0 : 0.0;
        case 28: return run->power_since;
        case 29: return run->power_from;
        case 30: return (double)saltgate_pier_option_keys[2 + (uint32_t)run->warning_mode];
        case 31: return run->warning_entered;
        case 32: return run->warning_way;
        case 33: return run->warning_from_watch;
        case 34: return run->warning_from_alarm;
        case 35: return run->warning_rule1_seen ? 1.0 : 0.0;
        case 36: return run->warning_rule1_since;
        case 37: return run->blare_horn_follow_0_from;
        case 38: return run->blast_passed;
        case 39: return run->notice_moments[n];
        case 40: return run->notice_packed[n];
        case 41: return run->notice_positions[n][0];
        case 42: return run->notice_positions[n][1];
        case 43: return run->notice_positions[n][2];
        case 44: return run->notice_first;
        case 45: return run->notice_count;
        case 46: return run->notice_dropped;
        case 47: return run->notice0_sent;
        case 48: return run->notice_value_loud[n];
        case 49: return run->notice0_text;
        case 50: return run->fog_lamp_fault_last[n];
        case 51: return run->fog_lamp_fault_count[n];
        case 52: return run->notice1_sent[n];
        case 53: return run->notice_value_within[n];
        case 54: return run->notice1_text[n];
        case 55: return run->quay_cock[n];
        case 56: return run->board_loudness[n];
        case 57: return run->docking_started;
        case 58: return run->gate_opens_last;
        case 59: return run->star_shell_born[n];
        case 60: return run->star_shell_length[n];
        case 61: return run->star_shell_place[n][0];
        case 62: return run->star_shell_place[n][1];
        case 63: return run->star_shell_place[n][2];
        case 64: return run->star_shell_tint[n][0];
        case 65: return run->star_shell_tint[n][1];
        case 66: return run->star_shell_tint[n][2];
        default: return run->star_shell_count;
    }
}

/* Restores the n-th value of a saved field. */
static inline void saltgate_pier_take_saved(saltgate_pier_run *run, uint32_t field, uint32_t n, double value)
{
    switch (field) {
        case 0: run->now = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 1: run->seed = saltgate_pier_cell_index(value); break;
        case 2: run->clock_hour = saltgate_pier_clean_saved(value, 0.0, 23.999999999999996,
            17.666666666666668); break;
        case 3: run->clock_days = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 4: run->clock_since = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 5: run->clock_rate = saltgate_pier_clean_saved(value, -1e6, 1e6, 1.0); break;
        case 6: run->weather = saltgate_pier_option_of(saltgate_pier_cell_index(value), 0, 2u); break;
        case 7: run->weather_since = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 8: run->weather_from[0] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 9: run->weather_from[1] = saltgate_pier_clean_saved(value, 0.0, 1.0, 0.0); break;
        case 10: run->mist = saltgate_pier_clean_saved(value, 0.0, 1.0, 0.3); break;
        case 11: run->swell = saltgate_pier_clean_saved(value, 0.0, 1.0, 0.2); break;
        case 12: run->season = saltgate_pier_clean_saved(value, 1.0, 366.0, 324.0); break;
        case 13: run->haul = saltgate_pier_clean_saved(value, 0.0, 2.0, 1.0); break;
        case 14: run->rocket_place[0] = saltgate_pier_clean_saved(value, -1e6, 1e6, 30.0); break;
        case 15: run->rocket_place[1] = saltgate_pier_clean_saved(value, -1e6, 1e6, 40.0); break;
        case 16: run->rocket_place[2] = saltgate_pier_clean_saved(value, -1e6, 1e6, -60.0); break;
        case 17: run->rocket_tint[0] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 18: run->rocket_tint[1] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 19: run->rocket_tint[2] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 20: run->horn_at = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 21: run->horn_since = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 22: run->horn_plays = value != 0.0; break;
        case 23: run->horn_changed = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 24: run->ratchet_at = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 25: run->ratchet_since = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 26: run->ratchet_rate = saltgate_pier_clean_saved(value, -1.0, 16.0, -1.0); break;
        case 27: run->power_on = value != 0.0; break;
        case 28: run->power_since = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 29: run->power_from = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 30: run->warning_mode = (double)saltgate_pier_option_of(saltgate_pier_cell_index(value), 2,
            3u); break;
        case 31: run->warning_entered = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 32: run->warning_way = saltgate_pier_clean_saved(value, 0.0, 2.0, 0.0); break;
        case 33: run->warning_from_watch = saltgate_pier_clean_saved(value, 0.0, 1.0, 0.0); break;
        case 34: run->warning_from_alarm = saltgate_pier_clean_saved(value, 0.0, 1.0, 0.0); break;
        case 35: run->warning_rule1_seen = value != 0.0; break;
        case 36: run->warning_rule1_since = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 37: run->blare_horn_follow_0_from = saltgate_pier_clean_saved(value, 0.0, 1.0, 0.0); break;
        case 38: run->blast_passed = saltgate_pier_clean_saved(value, -1000000001.0, 2e9, -1e-9); break;
        case 39: run->notice_moments[n] = saltgate_pier_clean_saved(value, -1e9, 1e9, 0.0); break;
        case 40: run->notice_packed[n] = saltgate_pier_clean_saved(value, 0.0, 1e12, 0.0); break;
        case 41: run->notice_positions[n][0] = saltgate_pier_clean_saved(value, -3.4028234663852886e38,
            3.4028234663852886e38, 0.0); break;
        case 42: run->notice_positions[n][1] = saltgate_pier_clean_saved(value, -3.4028234663852886e38,
            3.4028234663852886e38, 0.0); break;
        case 43: run->notice_positions[n][2] = saltgate_pier_clean_saved(value, -3.4028234663852886e38,
            3.4028234663852886e38, 0.0); break;
        case 44: run->notice_first = saltgate_pier_clean_saved(value, 0.0, 31.0, 0.0); break;
        case 45: run->notice_count = saltgate_pier_clean_saved(value, 0.0, 32.0, 0.0); break;
        case 46: run->notice_dropped = saltgate_pier_clean_saved(value, 0.0, 4e9, 0.0); break;
        case 47: run->notice0_sent = saltgate_pier_clean_saved(value, 0.0, 4e9, 0.0); break;
        case 48: run->notice_value_loud[n] = saltgate_pier_clean_saved(value, -3.4028234663852886e38,
            3.4028234663852886e38, 0.0); break;
        case 49: run->notice0_text = saltgate_pier_clean_saved(value, -1.0, 1.0, -1.0); break;
        case 50: run->fog_lamp_fault_last[n] = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 51: run->fog_lamp_fault_count[n] = saltgate_pier_clean_saved(value, 0.0, 4e9, 0.0); break;
        case 52: run->notice1_sent[n] = saltgate_pier_clean_saved(value, 0.0, 4e9, 0.0); break;
        case 53: run->notice_value_within[n] = saltgate_pier_clean_saved(value, -3.4028234663852886e38,
            3.4028234663852886e38, 0.0); break;
        case 54: run->notice1_text[n] = saltgate_pier_clean_saved(value, -1.0, 2.0, -1.0); break;
        case 55: run->quay_cock[n] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 56: run->board_loudness[n] = saltgate_pier_clean_saved(value, 0.0, 2.0, 0.6); break;
        case 57: run->docking_started = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 58: run->gate_opens_last = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 59: run->star_shell_born[n] = saltgate_pier_clean_saved(value, -2e9, 1e9, -2e9); break;
        case 60: run->star_shell_length[n] = saltgate_pier_clean_saved(value, 5.0, 7.0, 5.0); break;
        case 61: run->star_shell_place[n][0] = saltgate_pier_clean_saved(value, -1e6, 1e6, 30.0); break;
        case 62: run->star_shell_place[n][1] = saltgate_pier_clean_saved(value, -1e6, 1e6, 40.0); break;
        case 63: run->star_shell_place[n][2] = saltgate_pier_clean_saved(value, -1e6, 1e6, -60.0); break;
        case 64: run->star_shell_tint[n][0] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 65: run->star_shell_tint[n][1] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        case 66: run->star_shell_tint[n][2] = saltgate_pier_clean_saved(value, 0.0, 1.0, 1.0); break;
        default: run->star_shell_count = saltgate_pier_clean_saved(value, 0.0, 4e9, 0.0); break;
    }
}

/* Restores each saved value from itself, for the self-test: nothing may change. */
static inline void saltgate_pier_resave(saltgate_pier_run *run)
{
    for (uint32_t field = 0u; field < 68u; ++field) {
        const uint32_t count = saltgate_pier_save_heads[field] & 0x00ffffffu;
        for (uint32_t n = 0u; n < count; ++n) {
            saltgate_pier_take_saved(run, field, n, saltgate_pier_saved_value(run, field, n));
        }
    }
}

/* Writes a save of the run. */
static inline void saltgate_pier_write_save(const saltgate_pier_run *run, uint8_t *bytes)
{
    saltgate_pier_put_word(bytes, 0, 0x544c4143u);
    saltgate_pier_put_word(bytes, 4, 1u);
    saltgate_pier_put_word(bytes, 8, 0x39f896a0u);
    uint32_t at = 16;
    for (uint32_t field = 0u; field < 68u; ++field) {
        const uint32_t head = saltgate_pier_save_heads[field];
        saltgate_pier_put_word(bytes, at, saltgate_pier_save_keys[field]);
        saltgate_pier_put_word(bytes, at + 4, head);
        at += 8;
        const uint32_t count = head & 0x00ffffffu;
        uint32_t each = 4;
        if ((head >> 24) == 1u) each = 8;
        for (uint32_t n = 0u; n < count; ++n) {
            const uint32_t place = at + each * n;
            const double value = saltgate_pier_saved_value(run, field, n);
            if (each == 8) {
                saltgate_pier_put_word(bytes, place, saltgate_pier_low_bits(value));
                saltgate_pier_put_word(bytes, place + 4, saltgate_pier_high_bits(value));
            } else {
                saltgate_pier_put_word(bytes, place, saltgate_pier_cell_index(value));
            }
        }
        at += each * count;
    }
    saltgate_pier_put_word(bytes, 12, saltgate_pier_save_sum(bytes, at));
}

/* Restarts the run and restores all fields that the save has. Returns the number of fields in the save
   that this file lacks or has fewer of. */
static inline uint32_t saltgate_pier_read_save(saltgate_pier_run *run, const uint8_t *bytes, uint32_t size)
{
    *run = saltgate_pier_start(41u);
    uint32_t dropped = 0u;
    uint32_t at = 16;
    while (at < size) {
        const uint32_t key = saltgate_pier_word_at(bytes, at);
        const uint32_t head = saltgate_pier_word_at(bytes, at + 4);
        uint32_t each = 4;
        const uint32_t bits = head >> 24;
        if (bits == 1u) each = 8;
        const uint32_t count = head & 0x00ffffffu;
        at += 8;
        uint32_t kept = 0u;
        for (uint32_t field = 0u; field < 68u; ++field) {
            if (saltgate_pier_save_keys[field] == key && (saltgate_pier_save_heads[field] >> 24) == bits) {
                const uint32_t own = saltgate_pier_save_heads[field] & 0x00ffffffu;
                kept = own < count ? own : count;
                for (uint32_t n = 0u; n < kept; ++n) {
                    const uint32_t place = at + each * n;
                    const uint32_t low = saltgate_pier_word_at(bytes, place);
                    double value = (double)low;
                    if (each == 8) {
                        value = saltgate_pier_from_bits(saltgate_pier_word_at(bytes, place + 4), low);
                    }
                    saltgate_pier_take_saved(run, field, n, value);
                }
                break;
            }
        }
        for (uint32_t n_2 = 0u; n_2 < 12u; ++n_2) {
            if (saltgate_pier_save_unused[n_2] == key) kept = count;
        }
        if (kept < count) dropped += 1u;
        at += each * count;
    }
    return dropped;
}

/* The size of a save in bytes, a hash of its layout, and the version of the exporter. */
enum { SALTGATE_PIER_SAVE_BYTES = 3304 };
#define SALTGATE_PIER_LAYOUT 972592800u
#define SALTGATE_PIER_EXPORTER "caltrin 0.1.0"

/* Saves a run. The bytes are the same on every machine, in every language and in the preview. */
SALTGATE_PIER_API void saltgate_pier_save(const saltgate_pier_run *run, uint8_t bytes[3304])
{
    saltgate_pier_write_save(run, bytes);
}

/* Loads a save of this book or of another version of it. Fields that both have are restored; all others start at their
   defaults. `dropped` receives the number of fields in the save that this file lacks or has fewer of; it may be NULL.
   Returns false and leaves the run unchanged if the bytes are not a complete save. */
SALTGATE_PIER_API bool saltgate_pier_load(saltgate_pier_run *run, const uint8_t *bytes, size_t size,
    uint32_t *dropped)
{
    uint32_t count;
    if (size > 0x7fffffffu || !saltgate_pier_is_save(bytes, (uint32_t)size)) return false;
    count = saltgate_pier_read_save(run, bytes, (uint32_t)size);
    if (dropped) *dropped = count;
    return true;
}

/* A lamp of 8, index 0 to 7: spot -- pier.caltrin:136: light mast[8] spot (eight lamps, each with its own
   buzz) */
typedef struct saltgate_pier_mast {
    float intensity; /* lm -- pier.caltrin:142: intensity 6200lm * dark * buzzing() * supply */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:141: color sodium */
    float reach_inner; /* m, full light up to this distance -- pier.caltrin:140: reach 1m..14m */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:140: reach 1m..14m */
    float cone_inner; /* degrees, full angle, full light inside -- pier.caltrin:139: cone 20deg..50deg */
    float cone_outer; /* degrees, full angle, none from here on -- pier.caltrin:139: cone 20deg..50deg */
    float position[3]; /* m -- pier.caltrin:137: position (0m, 6m, 0m), (7m, 0m, 0m) */
    float aim[3]; /* direction, of length 1 -- pier.caltrin:138: aim (0m, -1m, 0m) */
} saltgate_pier_mast;

/* A lamp of 3, index 0 to 2: area -- pier.caltrin:146: light fog_lamp[3] area (old tubes on the same
   generator; they fail and strike again) */
typedef struct saltgate_pier_fog_lamp {
    /* cd -- pier.caltrin:154: intensity 90cd * needed * alive * held(94%..100%, every 20ms..60ms) * supply */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:149: color #ffc37a */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:148: reach 12m - 10m * mist */
    float position[3]; /* m -- pier.caltrin:147: position (4m, 4m, -3m), (18m, 0m, 0m) */
} saltgate_pier_fog_lamp;

/* A lamp of 12, index 0 to 11: point -- pier.caltrin:161: light glow point { color 2450K; reach 9m;
   intensity strength * lit * 60% } */
typedef struct saltgate_pier_quay_glow {
    float intensity; /* lm */
    float color[3]; /* linear Rec. 709 */
    float reach_outer; /* m, no light from this distance on */
    float position[3]; /* m */
} saltgate_pier_quay_glow;

/* A lamp of 12, index 0 to 11: point -- pier.caltrin:162: light core point { color 2450K; reach 9m;
   intensity strength * flame; offset wander(radius 3cm, r... */
typedef struct saltgate_pier_quay_core {
    float intensity; /* lm */
    float color[3]; /* linear Rec. 709 */
    float reach_outer; /* m, no light from this distance on */
    float position[3]; /* m */
    float offset[3]; /* m, added to the position */
} saltgate_pier_quay_core;

/* A lamp: point -- pier.caltrin:168: light ticket_hatch point (open to the wind) */
typedef struct saltgate_pier_ticket_hatch {
    float intensity; /* lm -- pier.caltrin:172: intensity 420lm * guttering(50%, draft 250ms) */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:171: color 2700K */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:170: reach 5m */
    float position[3]; /* m -- pier.caltrin:169: position (31m, 2m, 5m) */
} saltgate_pier_ticket_hatch;

/* A lamp of 6, index 0 to 5: area -- pier.caltrin:175: light pane[6] area (workshop windows, each lit at a
   different dusk level) */
typedef struct saltgate_pier_pane {
    float intensity; /* cd -- pier.caltrin:182: intensity 55cd * dim * awake */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:179: color #ffcf9a */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:178: reach 6m */
    float position[3]; /* m -- pier.caltrin:176: position (44m, 2m, -5m), (1.8m, 0m, 0m) */
    float aim[3]; /* direction, of length 1 -- pier.caltrin:177: aim (0m, 0m, 1m) */
} saltgate_pier_pane;

/* A lamp: point -- pier.caltrin:185: light weld point (welding in runs with pauses) */
typedef struct saltgate_pier_weld {
    /* lm -- pier.caltrin:189: intensity 20_000lm * bursts(on 400ms..2.5s, off 700ms..5s) * held(30%..100%,
       every 15ms..40ms) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:188: color arc */
    float reach_inner; /* m, full light up to this distance -- pier.caltrin:187: reach 0.5m..30m */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:187: reach 0.5m..30m */
    float position[3]; /* m -- pier.caltrin:186: position (48m, 1m, -2m) */
    bool shadows; /* whether the lamp casts shadows -- pier.caltrin:190: shadows on */
} saltgate_pier_weld;

/* A lamp: point -- pier.caltrin:193: light bench_lamp point (the winch pulls its voltage down at each
   tooth) */
typedef struct saltgate_pier_bench_lamp {
    /* lm -- pier.caltrin:197: intensity 640lm * (100% - 40% * follow(ratchet, band high, attack 5ms,
       release 140ms)) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:196: color 2700K */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:195: reach 7m */
    float position[3]; /* m -- pier.caltrin:194: position (46m, 2.4m, -3m) */
} saltgate_pier_bench_lamp;

/* A lamp: point -- pier.caltrin:200: light horn_lamp point (lights up with the horn) */
typedef struct saltgate_pier_horn_lamp {
    float intensity; /* lm -- pier.caltrin:204: intensity 4000lm * blare */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:203: color 3000K */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:202: reach 20m */
    float position[3]; /* m -- pier.caltrin:201: position (60m, 8m, 0m) */
} saltgate_pier_horn_lamp;

/* A lamp of 3, index 0 to 2: area -- pier.caltrin:209: light strip area { color #ffd9a0; reach 5m;
   intensity 60cd * later(blare, by 80ms) * loudness } */
typedef struct saltgate_pier_board_strip {
    float intensity; /* cd */
    float color[3]; /* linear Rec. 709 */
    float reach_outer; /* m, no light from this distance on */
    float position[3]; /* m */
} saltgate_pier_board_strip;

/* A lamp: point -- pier.caltrin:213: light buoy_lamp point (off the pier's head, flashes with the bell) */
typedef struct saltgate_pier_buoy_lamp {
    float intensity; /* cd -- pier.caltrin:217: intensity 700cd * (10% + 90% * stroke) */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:216: color #9dffb0 */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:215: reach 16m */
    float position[3]; /* m -- pier.caltrin:214: position (72m, 2m, 18m) */
} saltgate_pier_buoy_lamp;

/* A lamp: point -- pier.caltrin:220: light harbor_light point (two flashes every six seconds) */
typedef struct saltgate_pier_harbor_light {
    /* cd -- pier.caltrin:223: intensity 2600cd * rhythm(on 400ms, off 800ms, on 400ms, off 4.4s) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:222: color #9dffb0 */
    float position[3]; /* m -- pier.caltrin:221: position (60m, 14m, 0m) */
} saltgate_pier_harbor_light;

/* A lamp of 4, index 0 to 3: point -- pier.caltrin:226: light standby[4] point (standby lamps of the
   winches, never in step) */
typedef struct saltgate_pier_standby {
    float intensity; /* cd -- pier.caltrin:230: intensity 12cd * alternate(breathing, scatter) */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:229: color #ff5a1f */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:228: reach 2m */
    float position[3]; /* m -- pier.caltrin:227: position (12m, 1m, 2m), (9m, 0m, 0m) */
} saltgate_pier_standby;

/* A lamp of 16, index 0 to 15: point -- pier.caltrin:233: light edge_lamp[16] point (a chase along the
   pier's edge) */
typedef struct saltgate_pier_edge_lamp {
    /* cd -- pier.caltrin:237: intensity 18cd * later(sine(20%..100%, every 2.9s), each 110ms) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:236: color hue(#ffb000, by drawn(-6deg..6deg)) */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:235: reach 2m */
    float position[3]; /* m -- pier.caltrin:234: position (0m, 0.2m, 12m), (3.5m, 0m, 0m) */
} saltgate_pier_edge_lamp;

/* A lamp: point -- pier.caltrin:240: light gangway point */
typedef struct saltgate_pier_gangway {
    float intensity; /* lm -- pier.caltrin:244: intensity 320lm * once(warming) */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:243: color 3500K */
    float reach_inner; /* m, full light up to this distance -- pier.caltrin:242: reach 1m..8m */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:242: reach 1m..8m */
    float position[3]; /* m -- pier.caltrin:241: position (22m, 2m, 4m) */
} saltgate_pier_gangway;

/* A lamp: point -- pier.caltrin:247: light gate_lamp point */
typedef struct saltgate_pier_gate_lamp {
    float intensity; /* cd -- pier.caltrin:251: intensity 40cd * play(opening, at gate_opens) */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:250: color #58ff9a */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:249: reach 3m */
    float position[3]; /* m -- pier.caltrin:248: position (22m, 1m, 8m) */
} saltgate_pier_gate_lamp;

/* A lamp: point -- pier.caltrin:262: light warning_lamp point (red, at the pier's head) */
typedef struct saltgate_pier_warning_lamp {
    /* cd -- pier.caltrin:266: intensity 900cd * pick(warning, calm 0%, watch sine(10%..50%, every 3.1s),
       alarm rhythm(on 300ms,... */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:265: color #ff2a10 */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:264: reach 12m */
    float position[3]; /* m -- pier.caltrin:263: position (60m, 10m, 0m) */
} saltgate_pier_warning_lamp;

/* A lamp of 6, index 0 to 5: point -- pier.caltrin:269: spark star_shell[6] point at rocket (star shells
   on small parachutes) */
typedef struct saltgate_pier_star_shell {
    /* cd -- pier.caltrin:276: intensity 9000cd * fading(life) * held(85%..100%, every 40ms..120ms) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:275: color rocket.tint */
    float reach_outer; /* m, no light from this distance on -- pier.caltrin:274: reach 90m */
    float position[3]; /* m -- pier.caltrin:272: position rocket.place */
    float offset[3]; /* m, added to the position -- pier.caltrin:273: offset (0m, life * -12m, 0m) */
} saltgate_pier_star_shell;

/* A lamp: directional -- pier.caltrin:285: light sunlight directional */
typedef struct saltgate_pier_sunlight {
    /* lx -- pier.caltrin:288: intensity 60_000lx * sun.strength * pick(weather, fair 1 - 80% * mist,
       overcast 0%) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:287: color sun.color */
    float aim[3]; /* direction, of length 1 -- pier.caltrin:286: aim sun.aim */
    bool shadows; /* whether the lamp casts shadows -- pier.caltrin:289: shadows on */
} saltgate_pier_sunlight;

/* A lamp: directional -- pier.caltrin:292: light moonlight directional */
typedef struct saltgate_pier_moonlight {
    /* lx -- pier.caltrin:295: intensity 0.25lx * moon.strength * pick(weather, fair 1 - mist, overcast 0%) */
    float intensity;
    float color[3]; /* linear Rec. 709 -- pier.caltrin:294: color #b8ccff */
    float aim[3]; /* direction, of length 1 -- pier.caltrin:293: aim moon.aim */
} saltgate_pier_moonlight;

/* A lamp: ambient -- pier.caltrin:298: light deck ambient */
typedef struct saltgate_pier_deck {
    float intensity; /* lx -- pier.caltrin:300: intensity 3lx * (40% + 5% * supply) + 2500lx * overhead */
    float color[3]; /* linear Rec. 709 -- pier.caltrin:299: color mix(#5a6f86, sky, by sun.daylight) */
} saltgate_pier_deck;

/* An output -- pier.caltrin:303: output sky_tint = sky */
typedef struct saltgate_pier_sky_tint {
    float value[3]; /* linear Rec. 709 */
} saltgate_pier_sky_tint;

/* An output -- pier.caltrin:304: output haze_tint = mix(watch.tint, #ffb36b, by 30% * dark) (haze takes
   the color of the light a...) */
typedef struct saltgate_pier_haze_tint {
    float value[3]; /* linear Rec. 709 */
} saltgate_pier_haze_tint;

/* An output -- pier.caltrin:305: output fog = mist * pick(watch, night 130%, morning 160%, others 100%) */
typedef struct saltgate_pier_fog {
    float value; /* number */
} saltgate_pier_fog;

/* An output -- pier.caltrin:306: output view_range = mix(900m + 3100m * overhead, 150m, by mist) */
typedef struct saltgate_pier_view_range {
    float value; /* m */
} saltgate_pier_view_range;

/* An output -- pier.caltrin:308: output drumming = follow(rain, band mid, attack 5ms, release 90ms) *
   pick(weather, fair 0%, overc... */
typedef struct saltgate_pier_drumming {
    float value; /* number */
} saltgate_pier_drumming;

/* An output of 400, index 0 to 399 -- pier.caltrin:310: output stars[400] (a field of stars for the sky) */
typedef struct saltgate_pier_stars {
    float level; /* number -- pier.caltrin:312: level clear * held(40%..100%, every 200ms..900ms, over 60%) */
    float tint[3]; /* linear Rec. 709 -- pier.caltrin:313: tint drawn(#ffd9b0, #ffffff, #b8ccff) */
} saltgate_pier_stars;

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_mast(const saltgate_pier_run *run, uint32_t first, uint32_t count,
    saltgate_pier_mast *lamps)
{
    const double hour = saltgate_pier_clock_hour(run);
    const double t = run->now;
    const double dark_now = saltgate_pier_dark(hour, run->season);
    const double intensity_product = 6200.0 * dark_now;
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0x1d19816bu);
    const double supply_now = saltgate_pier_supply(t);
    const uint32_t intensity_key_2 = saltgate_pier_chance_key(run->seed, 0xd065fa35u);
    const double power_now = saltgate_pier_power(t, run->power_on, run->power_since, run->power_from);
    const double intensity_mix = saltgate_pier_lerp(0.03, 1.0, power_now);
    const bool intensity_if = 1.0 > power_now;
    const double cone_long = saltgate_pier_lerp(0.6143787151789374, 0.8260104981374541, power_now);
    const double cone_middle = saltgate_pier_lerp(0.5425139545956855, 0.739707391072413, power_now);
    const double cone_short = saltgate_pier_lerp(0.41820949404943747, 0.5629148554993054, power_now);
    const double color_now_r = intensity_if ? saltgate_pier_light_r(cone_long, cone_middle, cone_short) : 1.0;
    const double color_now_g = intensity_if
        ? saltgate_pier_light_g(cone_long, cone_middle, cone_short)
        : 0.28053215;
    const double color_now_b = intensity_if
        ? saltgate_pier_light_b(cone_long, cone_middle, cone_short)
        : 0.017522722;
    const double brightest = saltgate_pier_max(saltgate_pier_max(color_now_r, color_now_g), color_now_b);
    const double color_now_r_2 = saltgate_pier_share(color_now_r, brightest);
    const double color_now_g_2 = saltgate_pier_share(color_now_g, brightest);
    const double color_now_b_2 = saltgate_pier_share(color_now_b, brightest);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        lamps[n].intensity = saltgate_pier_to_single(((double)index == 5.0
                    ? intensity_product
                        * saltgate_pier_buzzing(t, saltgate_pier_lamp_key(intensity_key, index), 0.2)
                        * supply_now
                    : intensity_product
                        * saltgate_pier_buzzing(t, saltgate_pier_lamp_key(intensity_key_2, index), 0.85)
                        * supply_now)
                * intensity_mix
                * brightest);
        lamps[n].color[0] = (float)color_now_r_2;
        lamps[n].color[1] = (float)color_now_g_2;
        lamps[n].color[2] = (float)color_now_b_2;
        lamps[n].reach_inner = 1.0f;
        lamps[n].reach_outer = 14.0f;
        lamps[n].cone_inner = 20.0f;
        lamps[n].cone_outer = 50.0f;
        lamps[n].position[0] = (float)(7.0 * (double)index);
        lamps[n].position[1] = 6.0f;
        lamps[n].position[2] = 0.0f;
        lamps[n].aim[0] = 0.0f;
        lamps[n].aim[1] = -1.0f;
        lamps[n].aim[2] = 0.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_mast saltgate_pier_read_mast(const saltgate_pier_run *run, uint32_t index)
{
    saltgate_pier_mast lamp;
    saltgate_pier_fill_mast(run, index, 1, &lamp);
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_fog_lamp(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_fog_lamp *lamps)
{
    const double hour = saltgate_pier_clock_hour(run);
    const double t = run->now;
    const double mist = run->mist;
    const double needed = saltgate_pier_max(saltgate_pier_dark(hour, run->season),
        saltgate_pier_ease_smooth(saltgate_pier_clamp((mist - 0.5) / 0.2, 0.0, 1.0)));
    const double intensity_product = 90.0 * needed;
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0xe338c449u);
    const double supply_now = saltgate_pier_supply(t);
    const double power_now = saltgate_pier_power(t, run->power_on, run->power_since, run->power_from);
    const double intensity_mix = saltgate_pier_lerp(0.03, 1.0, power_now);
    const bool intensity_if = 1.0 > power_now;
    const double cone_long = saltgate_pier_lerp(0.6143787151789374, 0.8941695352865264, power_now);
    const double cone_middle = saltgate_pier_lerp(0.5425139545956855, 0.8454330596660657, power_now);
    const double cone_short = saltgate_pier_lerp(0.41820949404943747, 0.7144274115928344, power_now);
    const double color_now_r = intensity_if ? saltgate_pier_light_r(cone_long, cone_middle, cone_short) : 1.0;
    const double color_now_g = intensity_if
        ? saltgate_pier_light_g(cone_long, cone_middle, cone_short)
        : 0.54572445;
    const double color_now_b = intensity_if
        ? saltgate_pier_light_b(cone_long, cone_middle, cone_short)
        : 0.19461784;
    const double brightest = saltgate_pier_max(saltgate_pier_max(color_now_r, color_now_g), color_now_b);
    const double color_now_r_2 = saltgate_pier_share(color_now_r, brightest);
    const double color_now_g_2 = saltgate_pier_share(color_now_g, brightest);
    const double color_now_b_2 = saltgate_pier_share(color_now_b, brightest);
    const double reach_outer_sum = 12.0 - 10.0 * mist;
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double fog_lamp_fault_last = run->fog_lamp_fault_last[saltgate_pier_at_most(index, 2u)];
        const double alive = fog_lamp_fault_last > -1.5e9
            ? saltgate_pier_striking(saltgate_pier_max(t - fog_lamp_fault_last, 0.0))
            : 1.0;
        lamps[n].intensity = saltgate_pier_to_single(intensity_product
                * alive
                * (0.94
                    + 0.06000000000000005
                        * saltgate_pier_held_level(t, saltgate_pier_lamp_key(intensity_key, index), 25.0,
                            0.24999999999999994))
                * supply_now
                * intensity_mix
                * brightest);
        lamps[n].color[0] = (float)color_now_r_2;
        lamps[n].color[1] = (float)color_now_g_2;
        lamps[n].color[2] = (float)color_now_b_2;
        lamps[n].reach_outer = (float)reach_outer_sum;
        lamps[n].position[0] = (float)(4.0 + 18.0 * (double)index);
        lamps[n].position[1] = 4.0f;
        lamps[n].position[2] = -3.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_fog_lamp saltgate_pier_read_fog_lamp(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_fog_lamp lamp;
    saltgate_pier_fill_fog_lamp(run, index, 1, &lamp);
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_quay_glow(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_quay_glow *lamps)
{
    const double hour = saltgate_pier_clock_hour(run);
    const double sun_height_now = saltgate_pier_sun_height(hour, run->season);
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0x5cf5239bu);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double cock = run->quay_cock[saltgate_pier_at_most(index, 11u)];
        const double lit = cock
            * (1.0
                - saltgate_pier_ease_smooth(saltgate_pier_clamp((sun_height_now
                                - (-5.0
                                    + 5.0
                                        * saltgate_pier_chance_phase(saltgate_pier_lamp_key(intensity_key,
                                                index))
                                    - 0.1))
                            / 0.2, 0.0, 1.0)));
        lamps[n].intensity = saltgate_pier_to_single(700.0 * lit * 0.6);
        lamps[n].color[0] = 1.0f;
        lamps[n].color[1] = 0.36097503f;
        lamps[n].color[2] = 0.060201444f;
        lamps[n].reach_outer = 9.0f;
        lamps[n].position[0] = (float)(5.0 * (double)index);
        lamps[n].position[1] = 3.0f;
        lamps[n].position[2] = 9.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_quay_glow saltgate_pier_read_quay_glow(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_quay_glow lamp;
    saltgate_pier_fill_quay_glow(run, index, 1, &lamp);
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_quay_core(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_quay_core *lamps)
{
    const double hour = saltgate_pier_clock_hour(run);
    const double t = run->now;
    const double sun_height_now = saltgate_pier_sun_height(hour, run->season);
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0x5cf5239bu);
    const uint32_t intensity_key_2 = saltgate_pier_chance_key(run->seed, 0x67243f2fu);
    const uint32_t offset_key = saltgate_pier_chance_key(run->seed, 0xb42e7750u);
    const uint32_t offset_key_2 = saltgate_pier_chance_key(run->seed, 0x43cdf659u);
    const uint32_t offset_key_3 = saltgate_pier_chance_key(run->seed, 0x12c5244cu);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double cock = run->quay_cock[saltgate_pier_at_most(index, 11u)];
        const double lit = cock
            * (1.0
                - saltgate_pier_ease_smooth(saltgate_pier_clamp((sun_height_now
                                - (-5.0
                                    + 5.0
                                        * saltgate_pier_chance_phase(saltgate_pier_lamp_key(intensity_key,
                                                index))
                                    - 0.1))
                            / 0.2, 0.0, 1.0)));
        const double flame = lit
            * saltgate_pier_guttering(t, saltgate_pier_lamp_key(intensity_key_2, index), 0.35, 0.4);
        const double offset_sum = saltgate_pier_drift_level(t, saltgate_pier_lamp_key(offset_key, index), 4.0,
                    1)
                * 2.0
            - 1.0;
        const double offset_sum_2 = saltgate_pier_drift_level(t, saltgate_pier_lamp_key(offset_key_2, index),
                    4.0, 1)
                * 2.0
            - 1.0;
        const double offset_sum_3 = saltgate_pier_drift_level(t, saltgate_pier_lamp_key(offset_key_3, index),
                    4.0, 1)
                * 2.0
            - 1.0;
        lamps[n].intensity = saltgate_pier_to_single(700.0 * flame);
        lamps[n].color[0] = 1.0f;
        lamps[n].color[1] = 0.36097503f;
        lamps[n].color[2] = 0.060201444f;
        lamps[n].reach_outer = 9.0f;
        lamps[n].position[0] = (float)(5.0 * (double)index);
        lamps[n].position[1] = 3.0f;
        lamps[n].position[2] = 9.0f;
        lamps[n].offset[0] = saltgate_pier_to_single(saltgate_pier_in_ball(offset_sum, offset_sum_2,
                    offset_sum_3)
                * 0.03);
        lamps[n].offset[1] = saltgate_pier_to_single(saltgate_pier_in_ball(offset_sum_2, offset_sum_3,
                    offset_sum)
                * 0.03);
        lamps[n].offset[2] = saltgate_pier_to_single(saltgate_pier_in_ball(offset_sum_3, offset_sum,
                    offset_sum_2)
                * 0.03);
    }
}

SALTGATE_PIER_API saltgate_pier_quay_core saltgate_pier_read_quay_core(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_quay_core lamp;
    saltgate_pier_fill_quay_core(run, index, 1, &lamp);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_ticket_hatch saltgate_pier_read_ticket_hatch(const saltgate_pier_run *run)
{
    saltgate_pier_ticket_hatch lamp;
    const double t = run->now;
    lamp.intensity = (float)(420.0
        * saltgate_pier_guttering(t, saltgate_pier_chance_key(run->seed, 0x94bee2e0u), 0.5, 0.25));
    lamp.color[0] = 1.0f;
    lamp.color[1] = 0.41525516f;
    lamp.color[2] = 0.099098265f;
    lamp.reach_outer = 5.0f;
    lamp.position[0] = 31.0f;
    lamp.position[1] = 2.0f;
    lamp.position[2] = 5.0f;
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_pane(const saltgate_pier_run *run, uint32_t first, uint32_t count,
    saltgate_pier_pane *lamps)
{
    const double hour = saltgate_pier_clock_hour(run);
    const double sun_height_now = saltgate_pier_sun_height(hour, run->season);
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0xe976a432u);
    const uint32_t intensity_key_2 = saltgate_pier_chance_key(run->seed, 0xd6c86fb2u);
    const double watch_night_now = saltgate_pier_watch_night(hour);
    const double watch_morning_now = saltgate_pier_watch_morning(hour);
    const double watch_forenoon_now = saltgate_pier_watch_forenoon(hour);
    const double watch_evening_now = saltgate_pier_watch_evening(hour);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double dim = 1.0
            - saltgate_pier_ease_smooth(saltgate_pier_clamp((sun_height_now
                            - (-3.0
                                + 8.0
                                    * saltgate_pier_chance_phase(saltgate_pier_lamp_key(intensity_key, index))
                                - 0.15))
                        / 0.3, 0.0, 1.0));
        const double intensity_time = saltgate_pier_chance_phase(saltgate_pier_lamp_key(intensity_key_2,
                index));
        const double intensity_choice = 0.3333333333333333 > intensity_time
            ? 0.0
            : 0.6666666666666666 > intensity_time
            ? 0.0
            : 0.4;
        const double awake = saltgate_pier_min(saltgate_pier_max(intensity_choice * watch_night_now
                    + watch_morning_now
                    + watch_forenoon_now
                    + watch_evening_now,
                saltgate_pier_min(saltgate_pier_min(saltgate_pier_min(intensity_choice, 1.0), 1.0), 1.0)),
            saltgate_pier_max(saltgate_pier_max(saltgate_pier_max(intensity_choice, 1.0), 1.0), 1.0));
        lamps[n].intensity = saltgate_pier_to_single(55.0 * dim * awake);
        lamps[n].color[0] = 1.0f;
        lamps[n].color[1] = 0.6239604f;
        lamps[n].color[2] = 0.3231432f;
        lamps[n].reach_outer = 6.0f;
        lamps[n].position[0] = (float)(44.0 + 1.8 * (double)index);
        lamps[n].position[1] = 2.0f;
        lamps[n].position[2] = -5.0f;
        lamps[n].aim[0] = 0.0f;
        lamps[n].aim[1] = 0.0f;
        lamps[n].aim[2] = 1.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_pane saltgate_pier_read_pane(const saltgate_pier_run *run, uint32_t index)
{
    saltgate_pier_pane lamp;
    saltgate_pier_fill_pane(run, index, 1, &lamp);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_weld saltgate_pier_read_weld(const saltgate_pier_run *run)
{
    saltgate_pier_weld lamp;
    const double t = run->now;
    lamp.intensity = saltgate_pier_to_single(2e4
            * saltgate_pier_burst_level(t, saltgate_pier_chance_key(run->seed, 0x57ce2f76u), 0.4, 2.5, 0.7,
                5.0, saltgate_pier_bursts_on, saltgate_pier_bursts_off, 64)
            * (0.3
                + 0.7
                    * saltgate_pier_held_level(t, saltgate_pier_chance_key(run->seed, 0xac037c6fu),
                        36.36363636363637, 0.2272727272727273)));
    lamp.color[0] = 0.6389992f;
    lamp.color[1] = 0.7163725f;
    lamp.color[2] = 1.0f;
    lamp.reach_inner = 0.5f;
    lamp.reach_outer = 30.0f;
    lamp.position[0] = 48.0f;
    lamp.position[1] = 1.0f;
    lamp.position[2] = -2.0f;
    lamp.shadows = true;
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_bench_lamp saltgate_pier_read_bench_lamp(const saltgate_pier_run *run)
{
    saltgate_pier_bench_lamp lamp;
    const double t = run->now;
    lamp.intensity = (float)(640.0
        * (1.0
            - 0.4
                * saltgate_pier_envelope_level(saltgate_pier_wrap_time(saltgate_pier_ratchet_place(t,
                                run->haul, run->ratchet_at, run->ratchet_since, run->ratchet_rate), 4.0)
                        * 3840.0, saltgate_pier_ratchet_envelope, 173)));
    lamp.color[0] = 1.0f;
    lamp.color[1] = 0.41525516f;
    lamp.color[2] = 0.099098265f;
    lamp.reach_outer = 7.0f;
    lamp.position[0] = 46.0f;
    lamp.position[1] = 2.4f;
    lamp.position[2] = -3.0f;
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_horn_lamp saltgate_pier_read_horn_lamp(const saltgate_pier_run *run)
{
    saltgate_pier_horn_lamp lamp;
    const double t = run->now;
    lamp.intensity = saltgate_pier_to_single(4e3
            * saltgate_pier_blare(t, run->horn_at, run->horn_since, run->horn_plays, run->horn_changed,
                run->blare_horn_follow_0_from));
    lamp.color[0] = 1.0f;
    lamp.color[1] = 0.476738f;
    lamp.color[2] = 0.1536071f;
    lamp.reach_outer = 20.0f;
    lamp.position[0] = 60.0f;
    lamp.position[1] = 8.0f;
    lamp.position[2] = 0.0f;
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_board_strip(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_board_strip *lamps)
{
    const double t = run->now;
    const double then = saltgate_pier_clamp(t - 0.08, -1e9, 1e9);
    const double intensity_product = 60.0
        * saltgate_pier_blare(then, run->horn_at, run->horn_since, run->horn_plays, run->horn_changed,
            run->blare_horn_follow_0_from);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double loudness = run->board_loudness[saltgate_pier_at_most(index, 2u)];
        lamps[n].intensity = saltgate_pier_to_single(intensity_product * loudness);
        lamps[n].color[0] = 1.0f;
        lamps[n].color[1] = 0.69387174f;
        lamps[n].color[2] = 0.3515326f;
        lamps[n].reach_outer = 5.0f;
        lamps[n].position[0] = (float)(10.0 + 16.0 * (double)index);
        lamps[n].position[1] = 3.0f;
        lamps[n].position[2] = -6.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_board_strip saltgate_pier_read_board_strip(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_board_strip lamp;
    saltgate_pier_fill_board_strip(run, index, 1, &lamp);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_buoy_lamp saltgate_pier_read_buoy_lamp(const saltgate_pier_run *run)
{
    saltgate_pier_buoy_lamp lamp;
    const double t = run->now;
    lamp.intensity = (float)(700.0 * (0.1 + 0.9 * saltgate_pier_stroke(t)));
    lamp.color[0] = 0.33716363f;
    lamp.color[1] = 1.0f;
    lamp.color[2] = 0.43415365f;
    lamp.reach_outer = 16.0f;
    lamp.position[0] = 72.0f;
    lamp.position[1] = 2.0f;
    lamp.position[2] = 18.0f;
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_harbor_light saltgate_pier_read_harbor_light(const saltgate_pier_run *run)
{
    saltgate_pier_harbor_light lamp;
    const double t = run->now;
    lamp.intensity = saltgate_pier_to_single(2600.0
            * saltgate_pier_harbor_light_rhythm(saltgate_pier_wrap_time(t, 6.0)));
    lamp.color[0] = 0.33716363f;
    lamp.color[1] = 1.0f;
    lamp.color[2] = 0.43415365f;
    lamp.position[0] = 60.0f;
    lamp.position[1] = 14.0f;
    lamp.position[2] = 0.0f;
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_standby(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_standby *lamps)
{
    const double t = run->now;
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0xd182480du);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        lamps[n].intensity = (float)(12.0
            * saltgate_pier_breathing(saltgate_pier_fold_time(t
                        + 6.2 * saltgate_pier_chance_phase(saltgate_pier_lamp_key(intensity_key, index)),
                    3.1)));
        lamps[n].color[0] = 1.0f;
        lamps[n].color[1] = 0.10224173f;
        lamps[n].color[2] = 0.013702083f;
        lamps[n].reach_outer = 2.0f;
        lamps[n].position[0] = (float)(12.0 + 9.0 * (double)index);
        lamps[n].position[1] = 1.0f;
        lamps[n].position[2] = 2.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_standby saltgate_pier_read_standby(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_standby lamp;
    saltgate_pier_fill_standby(run, index, 1, &lamp);
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_edge_lamp(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_edge_lamp *lamps)
{
    const double t = run->now;
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0x00086cfau);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double then = saltgate_pier_clamp(t - 0.11 * (double)index, -1e9, 1e9);
        const double intensity_sum = (-6.0
                    + 12.0 * saltgate_pier_chance_phase(saltgate_pier_lamp_key(intensity_key, index)))
                / 360.0
            + 0.25;
        const double intensity_sum_2 = saltgate_pier_sine_level(intensity_sum + 0.25) * 2.0 - 1.0 - 1.0;
        const double intensity_sum_3 = saltgate_pier_sine_level(intensity_sum) * 2.0 - 1.0;
        const double intensity_sum_4 = 0.04008983117438758 * intensity_sum_2
            - 0.16559477844099274 * intensity_sum_3;
        const double intensity_sum_5 = 0.04008983117438758 * intensity_sum_3
            + 0.16559477844099274 * intensity_sum_2;
        const double cone_long = 0.8640444967404417
            + (intensity_sum_4 * 0.3963377774 + intensity_sum_5 * 0.2158037573);
        const double cone_middle = 0.7976135602197533
            + (intensity_sum_4 * -0.1055613458 + intensity_sum_5 * -0.0638541728);
        const double cone_short = 0.5949687844818005
            + (intensity_sum_4 * -0.0894841775 + intensity_sum_5 * -1.291485548);
        const double color_now_r = saltgate_pier_light_r(cone_long, cone_middle, cone_short);
        const double color_now_g = saltgate_pier_light_g(cone_long, cone_middle, cone_short);
        const double color_now_b = saltgate_pier_light_b(cone_long, cone_middle, cone_short);
        const double brightest = saltgate_pier_max(saltgate_pier_max(color_now_r, color_now_g), color_now_b);
        lamps[n].intensity = (float)(18.0
            * (0.2 + 0.8 * saltgate_pier_sine_level(saltgate_pier_wrap_time(then, 2.9) / 2.9))
            * brightest);
        lamps[n].color[0] = (float)saltgate_pier_share(color_now_r, brightest);
        lamps[n].color[1] = (float)saltgate_pier_share(color_now_g, brightest);
        lamps[n].color[2] = saltgate_pier_to_single(saltgate_pier_share(color_now_b, brightest));
        lamps[n].reach_outer = 2.0f;
        lamps[n].position[0] = (float)(3.5 * (double)index);
        lamps[n].position[1] = 0.2f;
        lamps[n].position[2] = 12.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_edge_lamp saltgate_pier_read_edge_lamp(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_edge_lamp lamp;
    saltgate_pier_fill_edge_lamp(run, index, 1, &lamp);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_gangway saltgate_pier_read_gangway(const saltgate_pier_run *run)
{
    saltgate_pier_gangway lamp;
    const double t = run->now;
    const double intensity_product = 320.0 * saltgate_pier_warming(t);
    const double docking_at_now = saltgate_pier_docking_at(t, run->docking_started);
    const double intensity_choice = 0.0 > docking_at_now ? 0.0 : saltgate_pier_docking_weight(docking_at_now);
    const double cone_long = saltgate_pier_lerp(0.9010167023289669,
        saltgate_pier_docking_gangway_color_l(docking_at_now), intensity_choice);
    const double cone_middle = saltgate_pier_lerp(0.8563551629324132,
        saltgate_pier_docking_gangway_color_m(docking_at_now), intensity_choice);
    const double cone_short = saltgate_pier_lerp(0.744272310693046,
        saltgate_pier_docking_gangway_color_s(docking_at_now), intensity_choice);
    const double color_now_r = saltgate_pier_light_r(cone_long, cone_middle, cone_short);
    const double color_now_g = saltgate_pier_light_g(cone_long, cone_middle, cone_short);
    const double color_now_b = saltgate_pier_light_b(cone_long, cone_middle, cone_short);
    const double brightest = saltgate_pier_max(saltgate_pier_max(color_now_r, color_now_g), color_now_b);
    lamp.intensity = saltgate_pier_to_single(saltgate_pier_lerp(intensity_product,
                2.5 > docking_at_now
                    ? saltgate_pier_lerp(intensity_product, 1500.0,
                        saltgate_pier_ease_smooth(saltgate_pier_clamp((docking_at_now - 1.0) / 1.5, 0.0,
                                1.0)))
                    : 16.0 > docking_at_now
                    ? 1500.0
                    : 18.0 > docking_at_now
                    ? saltgate_pier_lerp(1500.0, 900.0,
                        saltgate_pier_ease_smooth(saltgate_pier_clamp((docking_at_now - 16.0) / 2.0, 0.0,
                                1.0)))
                    : 900.0, saltgate_pier_docking_weight_2(docking_at_now))
            * brightest);
    lamp.color[0] = (float)saltgate_pier_share(color_now_r, brightest);
    lamp.color[1] = (float)saltgate_pier_share(color_now_g, brightest);
    lamp.color[2] = saltgate_pier_to_single(saltgate_pier_share(color_now_b, brightest));
    lamp.reach_inner = 1.0f;
    lamp.reach_outer = 8.0f;
    lamp.position[0] = 22.0f;
    lamp.position[1] = 2.0f;
    lamp.position[2] = 4.0f;
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_gate_lamp saltgate_pier_read_gate_lamp(const saltgate_pier_run *run)
{
    saltgate_pier_gate_lamp lamp;
    const double t = run->now;
    const double gate_opens_last = run->gate_opens_last;
    lamp.intensity = saltgate_pier_to_single(40.0
            * (gate_opens_last > -1.5e9
                ? saltgate_pier_opening(saltgate_pier_max(t - gate_opens_last, 0.0))
                : 0.0));
    lamp.color[0] = 0.09758735f;
    lamp.color[1] = 1.0f;
    lamp.color[2] = 0.3231432f;
    lamp.reach_outer = 3.0f;
    lamp.position[0] = 22.0f;
    lamp.position[1] = 1.0f;
    lamp.position[2] = 8.0f;
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_warning_lamp saltgate_pier_read_warning_lamp(const saltgate_pier_run *run)
{
    saltgate_pier_warning_lamp lamp;
    const double t = run->now;
    const double intensity_mix = 0.1 + 0.4 * saltgate_pier_sine_level(saltgate_pier_wrap_time(t, 3.1) / 3.1);
    const double warning_lamp_rhythm_now = saltgate_pier_warning_lamp_rhythm(saltgate_pier_wrap_time(t, 1.0));
    lamp.intensity = saltgate_pier_to_single(900.0
            * saltgate_pier_min(saltgate_pier_max(intensity_mix
                            * saltgate_pier_warning_watch(t, run->warning_mode, run->warning_entered,
                                run->warning_way, run->warning_from_watch)
                        + warning_lamp_rhythm_now
                            * saltgate_pier_warning_alarm(t, run->warning_mode, run->warning_entered,
                                run->warning_way, run->warning_from_alarm),
                    saltgate_pier_min(saltgate_pier_min(0.0, intensity_mix), warning_lamp_rhythm_now)),
                saltgate_pier_max(saltgate_pier_max(0.0, intensity_mix), warning_lamp_rhythm_now)));
    lamp.color[0] = 1.0f;
    lamp.color[1] = 0.023153367f;
    lamp.color[2] = 0.0051815165f;
    lamp.reach_outer = 12.0f;
    lamp.position[0] = 60.0f;
    lamp.position[1] = 10.0f;
    lamp.position[2] = 0.0f;
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_star_shell(const saltgate_pier_run *run, uint32_t first,
    uint32_t count, saltgate_pier_star_shell *lamps)
{
    const double t = run->now;
    const uint32_t intensity_key = saltgate_pier_chance_key(run->seed, 0xdbd45adau);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const uint32_t at_most = saltgate_pier_at_most(index, 5u);
        const double star_shell_born = run->star_shell_born[at_most];
        const double star_shell_length = run->star_shell_length[at_most];
        const bool lives = star_shell_born + star_shell_length > t && !(star_shell_born > t);
        const double life = saltgate_pier_clamp((t - star_shell_born) / star_shell_length, 0.0, 1.0);
        const double star_shell_tint_r = run->star_shell_tint[at_most][0];
        const double star_shell_tint_g = run->star_shell_tint[at_most][1];
        const double star_shell_tint_b = run->star_shell_tint[at_most][2];
        const double brightest = saltgate_pier_max(saltgate_pier_max(star_shell_tint_r, star_shell_tint_g),
            star_shell_tint_b);
        lamps[n].intensity = saltgate_pier_to_single((lives
                    ? 9e3
                        * saltgate_pier_fading(life)
                        * (0.85
                            + 0.15000000000000002
                                * saltgate_pier_held_level(t, saltgate_pier_lamp_key(intensity_key, index),
                                    12.5, 0.24999999999999994))
                    : 0.0)
                * brightest);
        lamps[n].color[0] = saltgate_pier_to_single(saltgate_pier_share(star_shell_tint_r, brightest));
        lamps[n].color[1] = saltgate_pier_to_single(saltgate_pier_share(star_shell_tint_g, brightest));
        lamps[n].color[2] = saltgate_pier_to_single(saltgate_pier_share(star_shell_tint_b, brightest));
        lamps[n].reach_outer = 90.0f;
        lamps[n].position[0] = saltgate_pier_to_single(run->star_shell_place[at_most][0]);
        lamps[n].position[1] = saltgate_pier_to_single(run->star_shell_place[at_most][1]);
        lamps[n].position[2] = saltgate_pier_to_single(run->star_shell_place[at_most][2]);
        lamps[n].offset[0] = 0.0f;
        lamps[n].offset[1] = saltgate_pier_to_single(life * -12.0);
        lamps[n].offset[2] = 0.0f;
    }
}

SALTGATE_PIER_API saltgate_pier_star_shell saltgate_pier_read_star_shell(const saltgate_pier_run *run,
    uint32_t index)
{
    saltgate_pier_star_shell lamp;
    saltgate_pier_fill_star_shell(run, index, 1, &lamp);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_sunlight saltgate_pier_read_sunlight(const saltgate_pier_run *run)
{
    saltgate_pier_sunlight lamp;
    const double hour = saltgate_pier_clock_hour(run);
    const double sun_color_now_r = saltgate_pier_sun_color_r(hour, run->season);
    const double sun_color_now_g = saltgate_pier_sun_color_g(hour, run->season);
    const double sun_color_now_b = saltgate_pier_sun_color_b(hour, run->season);
    const double brightest = saltgate_pier_max(saltgate_pier_max(sun_color_now_r, sun_color_now_g),
        sun_color_now_b);
    const double sun_aim_now_x = saltgate_pier_sun_aim_x(hour, run->season);
    const double sun_aim_now_y = saltgate_pier_sun_aim_y(hour, run->season);
    const double sun_aim_now_z = saltgate_pier_sun_aim_z(hour, run->season);
    lamp.intensity = saltgate_pier_to_single(6e4
            * saltgate_pier_sun_strength(hour, run->season)
            * saltgate_pier_lerp(1.0 - 0.8 * run->mist, 0.0, saltgate_pier_weather_weight(run, 1u))
            * brightest);
    lamp.color[0] = (float)saltgate_pier_share(sun_color_now_r, brightest);
    lamp.color[1] = (float)saltgate_pier_share(sun_color_now_g, brightest);
    lamp.color[2] = (float)saltgate_pier_share(sun_color_now_b, brightest);
    lamp.aim[0] = saltgate_pier_to_single(saltgate_pier_heading(sun_aim_now_x, sun_aim_now_x, sun_aim_now_y,
            sun_aim_now_z, 0.0));
    lamp.aim[1] = saltgate_pier_to_single(saltgate_pier_heading(sun_aim_now_y, sun_aim_now_x, sun_aim_now_y,
            sun_aim_now_z, 0.0));
    lamp.aim[2] = saltgate_pier_to_single(saltgate_pier_heading(sun_aim_now_z, sun_aim_now_x, sun_aim_now_y,
            sun_aim_now_z, -1.0));
    lamp.shadows = true;
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_moonlight saltgate_pier_read_moonlight(const saltgate_pier_run *run)
{
    saltgate_pier_moonlight lamp;
    const double hour = saltgate_pier_clock_hour(run);
    const double days = saltgate_pier_clock_days(run);
    const double moon_aim_now_x = saltgate_pier_moon_aim_x(hour, days, run->season);
    const double moon_aim_now_y = saltgate_pier_moon_aim_y(hour, days, run->season);
    const double moon_aim_now_z = saltgate_pier_moon_aim_z(hour, days, run->season);
    lamp.intensity = saltgate_pier_to_single(0.25
            * saltgate_pier_moon_strength(hour, days, run->season)
            * saltgate_pier_lerp(1.0 - run->mist, 0.0, saltgate_pier_weather_weight(run, 1u)));
    lamp.color[0] = 0.47932017f;
    lamp.color[1] = 0.60382736f;
    lamp.color[2] = 1.0f;
    lamp.aim[0] = saltgate_pier_to_single(saltgate_pier_heading(moon_aim_now_x, moon_aim_now_x,
            moon_aim_now_y, moon_aim_now_z, 0.0));
    lamp.aim[1] = saltgate_pier_to_single(saltgate_pier_heading(moon_aim_now_y, moon_aim_now_x,
            moon_aim_now_y, moon_aim_now_z, 0.0));
    lamp.aim[2] = saltgate_pier_to_single(saltgate_pier_heading(moon_aim_now_z, moon_aim_now_x,
            moon_aim_now_y, moon_aim_now_z, -1.0));
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_deck saltgate_pier_read_deck(const saltgate_pier_run *run)
{
    saltgate_pier_deck lamp;
    const double hour = saltgate_pier_clock_hour(run);
    const double t = run->now;
    const double weather_weight = saltgate_pier_weather_weight(run, 1u);
    const double sky_now_r = saltgate_pier_sky_r(hour, run->season, weather_weight);
    const double sky_now_g = saltgate_pier_sky_g(hour, run->season, weather_weight);
    const double sky_now_b = saltgate_pier_sky_b(hour, run->season, weather_weight);
    const double sun_daylight_now = saltgate_pier_sun_daylight(hour, run->season);
    const double cone_long = saltgate_pier_lerp(0.5188370226641149,
        saltgate_pier_cone_l(sky_now_r, sky_now_g, sky_now_b), sun_daylight_now);
    const double cone_middle = saltgate_pier_lerp(0.5377145272642493,
        saltgate_pier_cone_m(sky_now_r, sky_now_g, sky_now_b), sun_daylight_now);
    const double cone_short = saltgate_pier_lerp(0.5886725379626864,
        saltgate_pier_cone_s(sky_now_r, sky_now_g, sky_now_b), sun_daylight_now);
    lamp.intensity = (float)(3.0 * (0.4 + 0.05 * saltgate_pier_supply(t))
        + 2500.0 * saltgate_pier_overhead(hour, run->season, weather_weight));
    lamp.color[0] = (float)saltgate_pier_light_r(cone_long, cone_middle, cone_short);
    lamp.color[1] = (float)saltgate_pier_light_g(cone_long, cone_middle, cone_short);
    lamp.color[2] = (float)saltgate_pier_light_b(cone_long, cone_middle, cone_short);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_sky_tint saltgate_pier_read_sky_tint(const saltgate_pier_run *run)
{
    saltgate_pier_sky_tint lamp;
    const double hour = saltgate_pier_clock_hour(run);
    const double weather_weight = saltgate_pier_weather_weight(run, 1u);
    lamp.value[0] = (float)saltgate_pier_sky_r(hour, run->season, weather_weight);
    lamp.value[1] = (float)saltgate_pier_sky_g(hour, run->season, weather_weight);
    lamp.value[2] = (float)saltgate_pier_sky_b(hour, run->season, weather_weight);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_haze_tint saltgate_pier_read_haze_tint(const saltgate_pier_run *run)
{
    saltgate_pier_haze_tint lamp;
    const double hour = saltgate_pier_clock_hour(run);
    const double watch_tint_now_r = saltgate_pier_watch_tint_r(hour);
    const double watch_tint_now_g = saltgate_pier_watch_tint_g(hour);
    const double watch_tint_now_b = saltgate_pier_watch_tint_b(hour);
    const double value_product = 0.3 * saltgate_pier_dark(hour, run->season);
    const double cone_long = saltgate_pier_lerp(saltgate_pier_cone_l(watch_tint_now_r, watch_tint_now_g,
            watch_tint_now_b), 0.8713426777842572, value_product);
    const double cone_middle = saltgate_pier_lerp(saltgate_pier_cone_m(watch_tint_now_r, watch_tint_now_g,
            watch_tint_now_b), 0.8115731599841808, value_product);
    const double cone_short = saltgate_pier_lerp(saltgate_pier_cone_s(watch_tint_now_r, watch_tint_now_g,
            watch_tint_now_b), 0.6752738619690486, value_product);
    lamp.value[0] = (float)saltgate_pier_light_r(cone_long, cone_middle, cone_short);
    lamp.value[1] = (float)saltgate_pier_light_g(cone_long, cone_middle, cone_short);
    lamp.value[2] = (float)saltgate_pier_light_b(cone_long, cone_middle, cone_short);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_fog saltgate_pier_read_fog(const saltgate_pier_run *run)
{
    saltgate_pier_fog lamp;
    const double hour = saltgate_pier_clock_hour(run);
    lamp.value = saltgate_pier_to_single(run->mist
            * saltgate_pier_clamp(1.3 * saltgate_pier_watch_night(hour)
                    + 1.6 * saltgate_pier_watch_morning(hour)
                    + saltgate_pier_watch_forenoon(hour)
                    + saltgate_pier_watch_evening(hour), 1.0, 1.6));
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_view_range saltgate_pier_read_view_range(const saltgate_pier_run *run)
{
    saltgate_pier_view_range lamp;
    const double hour = saltgate_pier_clock_hour(run);
    lamp.value = (float)saltgate_pier_lerp(900.0
            + 3100.0 * saltgate_pier_overhead(hour, run->season, saltgate_pier_weather_weight(run, 1u)),
        150.0, run->mist);
    return lamp;
}

SALTGATE_PIER_API saltgate_pier_drumming saltgate_pier_read_drumming(const saltgate_pier_run *run)
{
    saltgate_pier_drumming lamp;
    const double t = run->now;
    lamp.value = saltgate_pier_to_single(saltgate_pier_envelope_level(saltgate_pier_wrap_time(t, 4.0)
                    * 3840.0, saltgate_pier_rain_envelope, 215)
            * saltgate_pier_lerp(0.0, 1.0, saltgate_pier_weather_weight(run, 1u)));
    return lamp;
}

/* Reads `count` lamps from `first` on. */
SALTGATE_PIER_API void saltgate_pier_fill_stars(const saltgate_pier_run *run, uint32_t first, uint32_t count,
    saltgate_pier_stars *lamps)
{
    const double hour = saltgate_pier_clock_hour(run);
    const double t = run->now;
    const double clear = (1.0 - run->mist)
        * (1.0 - saltgate_pier_sun_daylight(hour, run->season))
        * saltgate_pier_lerp(1.0, 0.0, saltgate_pier_weather_weight(run, 1u));
    const uint32_t level_key = saltgate_pier_chance_key(run->seed, 0xff9688cdu);
    const uint32_t tint_key = saltgate_pier_chance_key(run->seed, 0x09b597c5u);
    for (uint32_t n = 0; n < count; ++n) {
        const uint32_t index = first + n;
        const double tint_time = saltgate_pier_chance_phase(saltgate_pier_lamp_key(tint_key, index));
        const bool tint_if = 0.3333333333333333 > tint_time;
        const bool tint_if_2 = 0.6666666666666666 > tint_time;
        lamps[n].level = saltgate_pier_to_single(clear
                * (0.4
                    + 0.6
                        * saltgate_pier_soft_level(t, saltgate_pier_lamp_key(level_key, index),
                            1.8181818181818181, 0.3181818181818181, 0.6)));
        lamps[n].tint[0] = (float)(tint_if ? 1.0 : tint_if_2 ? 1.0 : 0.47932017);
        lamps[n].tint[1] = (float)(tint_if ? 0.69387174 : tint_if_2 ? 1.0 : 0.60382736);
        lamps[n].tint[2] = (float)(tint_if ? 0.43415365 : 1.0);
    }
}

SALTGATE_PIER_API saltgate_pier_stars saltgate_pier_read_stars(const saltgate_pier_run *run, uint32_t index)
{
    saltgate_pier_stars lamp;
    saltgate_pier_fill_stars(run, index, 1, &lamp);
    return lamp;
}

/* What the book tells the game when something happens. */
typedef struct saltgate_pier_notice {
    double moment; /* s since the run's start */
    const char * name; /* the book's name for it */
    const char * text; /* what comes with it, one of several by chance; empty for nothing */
    const char * from; /* the light or instance that it comes from; empty for none */
    uint32_t lamp; /* which lamp of the light, or which instance */
    float position[3]; /* where that lamp was then; 0 where the book does not say */
    float loud; /* number; 0 in notices without it */
    float within; /* m; 0 in notices without it */
} saltgate_pier_notice;

/* Takes the oldest notice that waits; false if there is none. 32 may wait. */
SALTGATE_PIER_API bool saltgate_pier_take_notice(saltgate_pier_run *run, saltgate_pier_notice *notice)
{
    const uint32_t count = saltgate_pier_counted(run->notice_count, 32u);
    if (count == 0u) return false;
    const uint32_t at = saltgate_pier_counted(run->notice_first, 31u);
    const double packed = run->notice_packed[at] >= 0.0 && run->notice_packed[at] < 134217728.0
        ? run->notice_packed[at]
        : 0.0;
    const double which = saltgate_pier_round_down(packed / 1048576.0);
    const uint32_t line = saltgate_pier_cell_index(saltgate_pier_round_down(which / 64.0));
    const uint32_t start = saltgate_pier_notice_text_starts[line];
    const uint32_t text = start
        + saltgate_pier_cell_index(which - (double)line * 64.0)
            % (saltgate_pier_notice_text_starts[line + 1u] - start);
    run->notice_count = (double)(count - 1u);
    run->notice_first = (double)((at + 1u) % 32u);
    notice->moment = run->notice_moments[at];
    notice->name = saltgate_pier_notice_names[line];
    notice->text = saltgate_pier_notice_texts[text];
    notice->from = saltgate_pier_notice_sources[line];
    notice->lamp = saltgate_pier_cell_index(packed - which * 1048576.0);
    notice->position[0] = (float)run->notice_positions[at][0];
    notice->position[1] = (float)run->notice_positions[at][1];
    notice->position[2] = (float)run->notice_positions[at][2];
    notice->loud = saltgate_pier_to_single(run->notice_value_loud[at]);
    notice->within = saltgate_pier_to_single(run->notice_value_within[at]);
    return true;
}

/* How many notices there was no room for since the start. */
SALTGATE_PIER_API uint32_t saltgate_pier_dropped_notices(const saltgate_pier_run *run)
{
    return saltgate_pier_counted(run->notice_dropped, 0xffffffffu);
}

/* Seeds of the self-test. */
static const uint32_t saltgate_pier_test_seeds[2] = {
    41u, 42u
};

/* Moments at which it reads all lights. */
static const double saltgate_pier_test_moments[161] = {
    0.0, 0.056, 0.096, 0.111, 0.148, 0.243, 0.286, 0.322, 0.37, 0.434, 0.486, 0.511, 0.518, 0.551, 0.559,
    0.591, 0.634, 0.656, 0.696, 0.721, 0.851, 1.174, 1.207, 1.272, 1.313, 1.348, 1.378, 1.443, 1.567, 1.636,
    1.929, 1.994, 2.034, 2.091, 2.099, 2.164, 2.368, 2.596, 2.65, 2.685, 2.715, 2.755, 2.82, 2.885, 3.015,
    3.1, 3.228, 3.259, 3.371, 3.437, 3.542, 3.552, 3.607, 4.093, 4.149, 4.158, 4.263, 4.284, 4.328, 4.814,
    4.879, 4.944, 4.984, 5.032, 5.05, 5.536, 5.601, 5.621, 5.666, 5.706, 5.771, 6.257, 6.322, 6.387, 6.427,
    6.492, 6.978, 7.043, 7.108, 7.149, 7.214, 7.4, 7.765, 7.83, 7.87, 7.893, 7.935, 8.03, 9.752, 10.483,
    11.215, 11.667, 12.399, 15.11, 18.599, 19.33, 19.783, 20.514, 21.246, 21.48, 26.714, 27.446, 27.898,
    28.63, 29.361, 34.829, 35.561, 36.013, 36.745, 37.477, 42.944, 43.676, 44.128, 44.86, 45.592, 51.06,
    51.792, 52.976, 53.707, 57.117, 59.175, 59.907, 61.091, 61.823, 61.995, 67.29, 68.022, 69.206, 69.938,
    75.406, 76.137, 76.869, 77.321, 78.053, 83.521, 84.253, 84.984, 85.437, 86.168, 111.219, 116.097,
    165.321, 170.199, 219.423, 224.301, 273.525, 278.403, 283.282, 327.627, 332.505, 337.384, 381.729,
    386.607, 391.486, 435.831, 440.709, 445.587, 494.811, 499.689, 548.913, 553.791
};

/* Seconds that it waits after what it does. */
static const double saltgate_pier_test_waits[31] = {
    0.001, 0.091, 0.37, 1.66, 6.262, 0.062, 0.248, 0.961, 4.444, 0.028, 0.19, 0.696, 2.929, 0.005, 0.111,
    0.434, 2.091, 8.03, 0.074, 0.286, 1.348, 5.621, 0.043, 0.217, 0.83, 3.32, 0.017, 0.141, 0.559, 2.49,
    24.24
};

/* Checksums of what the preview shows, one for each light and one for all notices. */
static const uint32_t saltgate_pier_test_sums[28] = {
    0x1579ae48u, 0x1603a01bu, 0x7813a0b0u, 0xb6b8e701u, 0xa67d0668u, 0x4ef6983au, 0xe9fb26cau, 0xb2c13a15u,
    0x96a8676eu, 0x76e8a1deu, 0x0e249beau, 0x7cf9e5a2u, 0x323641d6u, 0xca3d1610u, 0x152bbe6du, 0xa421d9adu,
    0x97e23bedu, 0xdd3363c0u, 0x2bdef6fdu, 0x1c21f736u, 0x603e3044u, 0x94f30dc0u, 0x0e490e1au, 0x162951bbu,
    0x39ae7bafu, 0x286d704eu, 0x53711b29u, 0x495d9198u
};

/* Adds a lamp of mast to a checksum. */
static inline uint32_t saltgate_pier_check_mast(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_mast lamp = saltgate_pier_read_mast(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_mast(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_inner);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.cone_inner);
    sum = saltgate_pier_checksum(sum, (double)lamp.cone_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[2]);
    return sum;
}

/* Adds a lamp of fog_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_fog_lamp(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_fog_lamp lamp = saltgate_pier_read_fog_lamp(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_fog_lamp(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of quay.glow to a checksum. */
static inline uint32_t saltgate_pier_check_quay_glow(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_quay_glow lamp = saltgate_pier_read_quay_glow(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_quay_glow(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of quay.core to a checksum. */
static inline uint32_t saltgate_pier_check_quay_core(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_quay_core lamp = saltgate_pier_read_quay_core(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_quay_core(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.offset[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.offset[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.offset[2]);
    return sum;
}

/* Adds a lamp of ticket_hatch to a checksum. */
static inline uint32_t saltgate_pier_check_ticket_hatch(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_ticket_hatch lamp = saltgate_pier_read_ticket_hatch(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of pane to a checksum. */
static inline uint32_t saltgate_pier_check_pane(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_pane lamp = saltgate_pier_read_pane(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_pane(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[2]);
    return sum;
}

/* Adds a lamp of weld to a checksum. */
static inline uint32_t saltgate_pier_check_weld(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_weld lamp = saltgate_pier_read_weld(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_inner);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    sum = saltgate_pier_checksum(sum, lamp.shadows ? 1.0 : 0.0);
    return sum;
}

/* Adds a lamp of bench_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_bench_lamp(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_bench_lamp lamp = saltgate_pier_read_bench_lamp(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of horn_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_horn_lamp(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_horn_lamp lamp = saltgate_pier_read_horn_lamp(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of board.strip to a checksum. */
static inline uint32_t saltgate_pier_check_board_strip(const saltgate_pier_run *run, uint32_t n,
    uint32_t index, uint32_t sum)
{
    saltgate_pier_board_strip lamp = saltgate_pier_read_board_strip(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_board_strip(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of buoy_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_buoy_lamp(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_buoy_lamp lamp = saltgate_pier_read_buoy_lamp(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of harbor_light to a checksum. */
static inline uint32_t saltgate_pier_check_harbor_light(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_harbor_light lamp = saltgate_pier_read_harbor_light(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of standby to a checksum. */
static inline uint32_t saltgate_pier_check_standby(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_standby lamp = saltgate_pier_read_standby(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_standby(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of edge_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_edge_lamp(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_edge_lamp lamp = saltgate_pier_read_edge_lamp(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_edge_lamp(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of gangway to a checksum. */
static inline uint32_t saltgate_pier_check_gangway(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_gangway lamp = saltgate_pier_read_gangway(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_inner);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of gate_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_gate_lamp(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_gate_lamp lamp = saltgate_pier_read_gate_lamp(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of warning_lamp to a checksum. */
static inline uint32_t saltgate_pier_check_warning_lamp(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_warning_lamp lamp = saltgate_pier_read_warning_lamp(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    return sum;
}

/* Adds a lamp of star_shell to a checksum. */
static inline uint32_t saltgate_pier_check_star_shell(const saltgate_pier_run *run, uint32_t n,
    uint32_t index, uint32_t sum)
{
    saltgate_pier_star_shell lamp = saltgate_pier_read_star_shell(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_star_shell(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.reach_outer);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.position[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.offset[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.offset[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.offset[2]);
    return sum;
}

/* Adds a lamp of sunlight to a checksum. */
static inline uint32_t saltgate_pier_check_sunlight(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_sunlight lamp = saltgate_pier_read_sunlight(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[2]);
    sum = saltgate_pier_checksum(sum, lamp.shadows ? 1.0 : 0.0);
    return sum;
}

/* Adds a lamp of moonlight to a checksum. */
static inline uint32_t saltgate_pier_check_moonlight(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_moonlight lamp = saltgate_pier_read_moonlight(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.aim[2]);
    return sum;
}

/* Adds a lamp of deck to a checksum. */
static inline uint32_t saltgate_pier_check_deck(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_deck lamp = saltgate_pier_read_deck(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.intensity);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.color[2]);
    return sum;
}

/* Adds a lamp of sky_tint to a checksum. */
static inline uint32_t saltgate_pier_check_sky_tint(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_sky_tint lamp = saltgate_pier_read_sky_tint(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.value[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.value[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.value[2]);
    return sum;
}

/* Adds a lamp of haze_tint to a checksum. */
static inline uint32_t saltgate_pier_check_haze_tint(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_haze_tint lamp = saltgate_pier_read_haze_tint(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.value[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.value[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.value[2]);
    return sum;
}

/* Adds a lamp of fog to a checksum. */
static inline uint32_t saltgate_pier_check_fog(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_fog lamp = saltgate_pier_read_fog(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.value);
    return sum;
}

/* Adds a lamp of view_range to a checksum. */
static inline uint32_t saltgate_pier_check_view_range(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_view_range lamp = saltgate_pier_read_view_range(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.value);
    return sum;
}

/* Adds a lamp of drumming to a checksum. */
static inline uint32_t saltgate_pier_check_drumming(const saltgate_pier_run *run, uint32_t sum)
{
    const saltgate_pier_drumming lamp = saltgate_pier_read_drumming(run);
    sum = saltgate_pier_checksum(sum, (double)lamp.value);
    return sum;
}

/* Adds a lamp of stars to a checksum. */
static inline uint32_t saltgate_pier_check_stars(const saltgate_pier_run *run, uint32_t n, uint32_t index,
    uint32_t sum)
{
    saltgate_pier_stars lamp = saltgate_pier_read_stars(run, index);
    if (n % 2u == 1u) saltgate_pier_fill_stars(run, index, 1, &lamp);
    sum = saltgate_pier_checksum(sum, (double)lamp.level);
    sum = saltgate_pier_checksum(sum, (double)lamp.tint[0]);
    sum = saltgate_pier_checksum(sum, (double)lamp.tint[1]);
    sum = saltgate_pier_checksum(sum, (double)lamp.tint[2]);
    return sum;
}

/* Adds all notices that wait to a checksum. */
static inline uint32_t saltgate_pier_check_notices(saltgate_pier_run *run, uint32_t sum)
{
    saltgate_pier_notice notice;
    while (saltgate_pier_take_notice(run, &notice)) {
        sum = saltgate_pier_checksum(sum, notice.moment);
        sum = saltgate_pier_checksum(sum, (double)notice.lamp);
        sum = saltgate_pier_checksum(sum, (double)notice.position[0]);
        sum = saltgate_pier_checksum(sum, (double)notice.position[1]);
        sum = saltgate_pier_checksum(sum, (double)notice.position[2]);
        sum = saltgate_pier_checksum(sum, (double)notice.loud);
        sum = saltgate_pier_checksum(sum, (double)notice.within);
    }
    return sum;
}

/* Adds the values of the n-th reading, one lamp of each light, to the checksums. */
static inline void saltgate_pier_check(saltgate_pier_run *run, uint32_t n, uint32_t *sums)
{
    const uint32_t turn = n % 4u < 2u ? 0u : n / 4u;
    sums[0] = saltgate_pier_check_mast(run, n, turn % 8u, sums[0]);
    sums[1] = saltgate_pier_check_fog_lamp(run, n, turn % 3u, sums[1]);
    sums[2] = saltgate_pier_check_quay_glow(run, n, turn % 12u, sums[2]);
    sums[3] = saltgate_pier_check_quay_core(run, n, turn % 12u, sums[3]);
    sums[4] = saltgate_pier_check_ticket_hatch(run, sums[4]);
    sums[5] = saltgate_pier_check_pane(run, n, turn % 6u, sums[5]);
    sums[6] = saltgate_pier_check_weld(run, sums[6]);
    sums[7] = saltgate_pier_check_bench_lamp(run, sums[7]);
    sums[8] = saltgate_pier_check_horn_lamp(run, sums[8]);
    sums[9] = saltgate_pier_check_board_strip(run, n, turn % 3u, sums[9]);
    sums[10] = saltgate_pier_check_buoy_lamp(run, sums[10]);
    sums[11] = saltgate_pier_check_harbor_light(run, sums[11]);
    sums[12] = saltgate_pier_check_standby(run, n, turn % 4u, sums[12]);
    sums[13] = saltgate_pier_check_edge_lamp(run, n, turn % 16u, sums[13]);
    sums[14] = saltgate_pier_check_gangway(run, sums[14]);
    sums[15] = saltgate_pier_check_gate_lamp(run, sums[15]);
    sums[16] = saltgate_pier_check_warning_lamp(run, sums[16]);
    sums[17] = saltgate_pier_check_star_shell(run, n, turn % 6u, sums[17]);
    sums[18] = saltgate_pier_check_sunlight(run, sums[18]);
    sums[19] = saltgate_pier_check_moonlight(run, sums[19]);
    sums[20] = saltgate_pier_check_deck(run, sums[20]);
    sums[21] = saltgate_pier_check_sky_tint(run, sums[21]);
    sums[22] = saltgate_pier_check_haze_tint(run, sums[22]);
    sums[23] = saltgate_pier_check_fog(run, sums[23]);
    sums[24] = saltgate_pier_check_view_range(run, sums[24]);
    sums[25] = saltgate_pier_check_drumming(run, sums[25]);
    sums[26] = saltgate_pier_check_stars(run, n, turn % 400u, sums[26]);
    sums[27] = saltgate_pier_check_notices(run, sums[27]);
}

/* What the game does in the self-test; unit is a chance of 0 to 1. */
static inline void saltgate_pier_act(saltgate_pier_run *run, uint32_t which, double unit)
{
    switch (which) {
        case 0: saltgate_pier_fire_ferry_docks(run); break;
        case 1: saltgate_pier_set_swell(run, 0.6); break;
        case 2: saltgate_pier_set_swell(run, 0.9); break;
        case 3: saltgate_pier_fire_rocket(run, 30.0, 40.0, -60.0, 1.0, 0.14412847, 0.07421357); break;
        case 4: saltgate_pier_set_mist(run, 0.7); break;
        case 5: saltgate_pier_fire_rocket(run, 52.0, 46.0, -70.0, 1.0, 0.14412847, 0.07421357); break;
        case 6: saltgate_pier_fire_power_cut(run); break;
        case 7: saltgate_pier_fire_power_back(run); break;
        case 8: saltgate_pier_set_swell(run, 0.3); break;
        case 9: saltgate_pier_fire_all_clear(run); break;
        case 10: saltgate_pier_fire_ferry_docks(run); break;
        case 11: saltgate_pier_fire_power_cut(run); break;
        case 12: saltgate_pier_fire_power_back(run); break;
        case 13: saltgate_pier_fire_all_clear(run); break;
        case 14: saltgate_pier_fire_rocket(run, 24.0 + 20.0 * unit, 39.5 + 3.0 * unit, -51.0 - 25.0 * unit,
            unit, 1.0 - 0.8 * unit, 0.1 + 0.5 * unit); break;
        case 15: saltgate_pier_set_weather(run, 0u); break;
        case 16: saltgate_pier_set_weather(run, 1u); break;
        case 17: saltgate_pier_set_mist(run, -0.03 + 1.06 * unit); break;
        case 18: saltgate_pier_set_swell(run, -0.03 + 1.06 * unit); break;
        case 19: saltgate_pier_set_season(run, -9.95 + 386.9 * unit); break;
        case 20: saltgate_pier_set_haul(run, -0.06 + 2.12 * unit); break;
        case 21: saltgate_pier_set_quay_cock(run, saltgate_pier_cell_index(saltgate_pier_round_down(unit
                        * 12.0)), -0.03 + 1.06 * unit); break;
        case 22: saltgate_pier_set_board_loudness(run, saltgate_pier_cell_index(saltgate_pier_round_down(unit
                        * 3.0)), -0.06 + 2.12 * unit); break;
        case 23: saltgate_pier_set_clock(run, -1.0 + 26.0 * unit); break;
        case 24: saltgate_pier_set_clock(run, NAN); break;
        case 25: saltgate_pier_set_clock(run, -2e9); break;
        case 26: saltgate_pier_set_clock(run, 2e9); break;
        case 27: saltgate_pier_drive_clock(run, 24.0 * unit); break;
        case 28: saltgate_pier_set_clock_days(run, 366.0 * unit); break;
        case 29: saltgate_pier_set_clock_rate(run, -3.0 + 9.0 * unit); break;
        case 30: saltgate_pier_set_clock_rate(run, -200.0 + 800.0 * unit); break;
        case 31: saltgate_pier_set_clock_rate(run, 1.0); break;
        case 32: saltgate_pier_set_mist(run, 0.0); break;
        case 33: saltgate_pier_set_mist(run, 0.151); break;
        case 34: saltgate_pier_set_mist(run, 0.261); break;
        case 35: saltgate_pier_set_mist(run, 0.332); break;
        case 36: saltgate_pier_set_mist(run, 0.398); break;
        case 37: saltgate_pier_set_mist(run, 0.502); break;
        case 38: saltgate_pier_set_mist(run, 0.612); break;
        case 39: saltgate_pier_set_mist(run, 0.747); break;
        case 40: saltgate_pier_set_mist(run, 0.896); break;
        case 41: saltgate_pier_set_mist(run, 0.637); break;
        case 42: saltgate_pier_set_mist(run, -1.0); break;
        case 43: saltgate_pier_set_swell(run, 0.149); break;
        case 44: saltgate_pier_set_swell(run, 0.259); break;
        case 45: saltgate_pier_set_swell(run, 0.331); break;
        case 46: saltgate_pier_set_swell(run, 0.361); break;
        case 47: saltgate_pier_set_swell(run, 0.498); break;
        case 48: saltgate_pier_set_swell(run, 0.608); break;
        case 49: saltgate_pier_set_swell(run, 0.703); break;
        case 50: saltgate_pier_set_swell(run, 0.803); break;
        case 51: saltgate_pier_set_swell(run, 0.337); break;
        case 52: saltgate_pier_set_swell(run, 2.5); break;
        case 53: saltgate_pier_set_season(run, 1.104); break;
        case 54: saltgate_pier_set_season(run, 1.305); break;
        case 55: saltgate_pier_set_season(run, 1.843); break;
        case 56: saltgate_pier_set_season(run, 2.291); break;
        case 57: saltgate_pier_set_season(run, 3.012); break;
        case 58: saltgate_pier_set_season(run, 3.715); break;
        case 59: saltgate_pier_set_season(run, 7.968); break;
        case 60: saltgate_pier_set_season(run, 11.952); break;
        case 61: saltgate_pier_set_season(run, 16.064); break;
        case 62: saltgate_pier_set_season(run, 18.072); break;
        case 63: saltgate_pier_set_season(run, 24.096); break;
        case 64: saltgate_pier_set_season(run, 59.76); break;
        case 65: saltgate_pier_set_season(run, 550.0); break;
        case 66: saltgate_pier_set_haul(run, 0.1); break;
        case 67: saltgate_pier_set_haul(run, 0.201); break;
        case 68: saltgate_pier_set_haul(run, 0.329); break;
        case 69: saltgate_pier_set_haul(run, 0.359); break;
        case 70: saltgate_pier_set_haul(run, 0.452); break;
        case 71: saltgate_pier_set_haul(run, 0.602); break;
        case 72: saltgate_pier_set_haul(run, 0.697); break;
        case 73: saltgate_pier_set_haul(run, 0.797); break;
        case 74: saltgate_pier_set_haul(run, 1.004); break;
        case 75: saltgate_pier_set_haul(run, 1.205); break;
        case 76: saltgate_pier_set_haul(run, 1.594); break;
        case 77: saltgate_pier_set_haul(run, 1.992); break;
        case 78: saltgate_pier_set_haul(run, 0.6535); break;
        case 79: saltgate_pier_set_quay_cock(run, 0u, 0.0); break;
        case 80: saltgate_pier_set_quay_cock(run, 0u, 0.199); break;
        case 81: saltgate_pier_set_quay_cock(run, 0u, 0.299); break;
        case 82: saltgate_pier_set_quay_cock(run, 0u, 0.335); break;
        case 83: saltgate_pier_set_quay_cock(run, 0u, 0.402); break;
        case 84: saltgate_pier_set_quay_cock(run, 0u, 0.598); break;
        case 85: saltgate_pier_set_quay_cock(run, 0u, 0.664); break;
        case 86: saltgate_pier_set_quay_cock(run, 0u, 0.753); break;
        case 87: saltgate_pier_set_quay_cock(run, 0u, 0.904); break;
        case 88: saltgate_pier_set_quay_cock(run, 0u, 0.937); break;
        case 89: saltgate_pier_set_quay_cock(run, 0u, NAN); break;
        case 90: saltgate_pier_set_board_loudness(run, 0u, 0.151); break;
        case 91: saltgate_pier_set_board_loudness(run, 0u, 0.261); break;
        case 92: saltgate_pier_set_board_loudness(run, 0u, 0.331); break;
        case 93: saltgate_pier_set_board_loudness(run, 0u, 0.398); break;
        case 94: saltgate_pier_set_board_loudness(run, 0u, 0.498); break;
        case 95: saltgate_pier_set_board_loudness(run, 0u, 0.612); break;
        case 96: saltgate_pier_set_board_loudness(run, 0u, 0.703); break;
        case 97: saltgate_pier_set_board_loudness(run, 0u, 0.896); break;
        case 98: saltgate_pier_set_board_loudness(run, 0u, 1.096); break;
        case 99: saltgate_pier_set_board_loudness(run, 0u, 1.305); break;
        case 100: saltgate_pier_set_board_loudness(run, 0u, 1.606); break;
        case 101: saltgate_pier_set_board_loudness(run, 0u, 0.337); break;
        case 102: saltgate_pier_set_board_loudness(run, 0u, 4.0); break;
        case 103: saltgate_pier_set_clock(run, 0.1); break;
        case 104: saltgate_pier_set_clock(run, 0.201); break;
        case 105: saltgate_pier_set_clock(run, 0.329); break;
        case 106: saltgate_pier_set_clock(run, 0.359); break;
        case 107: saltgate_pier_set_clock(run, 0.452); break;
        case 108: saltgate_pier_set_clock(run, 0.602); break;
        case 109: saltgate_pier_set_clock(run, 0.697); break;
        case 110: saltgate_pier_set_clock(run, 0.797); break;
        case 111: saltgate_pier_set_clock(run, 1.004); break;
        case 112: saltgate_pier_set_clock(run, 1.205); break;
        case 113: saltgate_pier_set_clock(run, 1.594); break;
        case 114: saltgate_pier_set_clock(run, 1.992); break;
        case 115: saltgate_pier_set_clock(run, 2.51); break;
        case 116: saltgate_pier_set_clock(run, 3.112); break;
        case 117: saltgate_pier_set_clock(run, 5.976); break;
        case 118: saltgate_pier_set_clock(run, 8.964); break;
        case 119: saltgate_pier_set_clock(run, 14.056); break;
        case 120: saltgate_pier_set_clock(run, 17.068); break;
        default: saltgate_pier_set_clock(run, 23.904); break;
    }
}

/* Plays the self-test: how many checksums differ from those of the preview. */
static inline uint32_t saltgate_pier_differences(saltgate_pier_run *run)
{
    uint32_t sums[28] = {0u};
    for (uint32_t round = 0u; round < 2u; ++round) {
        const uint32_t seed = saltgate_pier_test_seeds[round];
        *run = saltgate_pier_start(seed);
        for (uint32_t n = 0u; n < 161u; ++n) {
            saltgate_pier_advance(run, saltgate_pier_test_moments[n]);
            saltgate_pier_resave(run);
            saltgate_pier_check(run, n, sums);
        }
        for (uint32_t n_2 = 0u; n_2 < 97u; ++n_2) {
            saltgate_pier_set_clock_days(run, 3.7 * (double)n_2);
            saltgate_pier_set_clock(run, 0.2473 * (double)n_2);
            saltgate_pier_check(run, n_2, sums);
        }
        *run = saltgate_pier_start(seed);
        double moment = 0.0;
        for (uint32_t n_3 = 0u; n_3 < 666u; ++n_3) {
            const uint32_t step = (666u * round) + n_3;
            const uint32_t drawn = saltgate_pier_scramble(step + 0x5e1f7e57u) % 122u;
            const uint32_t which = n_3 < 122u ? n_3 : drawn;
            const double unit = (double)(saltgate_pier_scramble(step) >> 8) / 16777216.0;
            saltgate_pier_act(run, which, unit);
            saltgate_pier_check(run, 2u * n_3, sums);
            saltgate_pier_resave(run);
            moment += saltgate_pier_test_waits[n_3 % 31u];
            saltgate_pier_advance(run, moment);
            saltgate_pier_check(run, (2u * n_3) + 1u, sums);
        }
    }
    uint32_t wrong = 0u;
    for (uint32_t k = 0u; k < 28u; ++k) {
        if (sums[k] != saltgate_pier_test_sums[k]) wrong += 1u;
    }
    return wrong;
}

/* Plays this file and compares checksums of everything that it gives with those of the preview: the number of lights
   that differ, 0 if this compiler gives bit-identical results. */
SALTGATE_PIER_API int saltgate_pier_self_test(void)
{
    saltgate_pier_run run = saltgate_pier_start(0u);
    return (int)saltgate_pier_differences(&run) + (saltgate_pier_is_exact() ? 0 : 1);
}

#if defined(__clang__)
#pragma clang diagnostic push
#pragma clang diagnostic ignored "-Wignored-pragmas"
#pragma float_control(pop)
#pragma clang diagnostic pop
#elif defined(__GNUC__)
#pragma GCC pop_options
#elif defined(_MSC_VER)
#pragma float_control(pop)
#if defined(_M_FP_CONTRACT) || defined(_M_FP_FAST) || _MSC_VER < 1930
#pragma fp_contract(on)
#endif
#endif

#endif
