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

//: clamp
static inline double caltrin_clamp(double v, double lo, double hi)
{
    v = v < lo ? lo : v;
    return v > hi ? hi : v;
}

//: lerp
/* lo at 0, hi at 1, never outside of the two. */
static inline double caltrin_lerp(double lo, double hi, double s)
{
    const double v = lo + (hi - lo) * s;
    return lo <= hi ? caltrin_clamp(v, lo, hi) : caltrin_clamp(v, hi, lo);
}

//: min
static inline double caltrin_min(double a, double b)
{
    return b < a ? b : a;
}

//: max
static inline double caltrin_max(double a, double b)
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
    const uint32_t cell = i - (uint32_t)(x - n < edge);
    return caltrin_to_unit(caltrin_draw(key ^ 0x68e31da4u, cell));
}

//: ease_smooth
static inline double caltrin_ease_smooth(double u)
{
    const double s = u * u * (3.0 - 2.0 * u);
    return s > 1.0 ? 1.0 : s;
}

//: ease_steps
/* CSS `steps()` at u: the number of steps, the jumps before the first of them, and all jumps. */
static inline double caltrin_ease_steps(double u, double steps, double first, double jumps)
{
    const double s = (caltrin_round_down(u * steps) + first) / jumps;
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

//: noise
/* Passes smoothly through draws at whole numbers x, 0..1. */
static inline double caltrin_noise(double x, uint32_t key)
{
    const double n = caltrin_round_down(x), f = x - n;
    const uint32_t i = caltrin_cell_index(n);
    const double eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    const double s = eased > 1.0 ? 1.0 : eased;
    const double a = caltrin_to_unit(caltrin_draw(key, i));
    const double b = caltrin_to_unit(caltrin_draw(key, i + 1u));
    return a + (b - a) * s;
}

//: drift_level
/* Drifts smoothly in 0..1, `rate` draws a second, and as many octaves. */
static inline double caltrin_drift_level(double t, uint32_t key, double rate, uint32_t octaves)
{
    double x = t * rate + caltrin_chance_phase(key);
    double sum = caltrin_noise(x, key), total = 1.0;
    uint32_t octave;
    for (octave = 1u; octave < octaves; ++octave) {
        x = 2.0 * x + 0.37;
        key += 0x9e3779b9u;
        sum = 2.0 * sum + caltrin_noise(x, key);
        total = 2.0 * total + 1.0;
    }
    return sum / total;
}

//: cell_edge
/* Where cell i of a held level begins, from i. */
static inline double caltrin_cell_edge(uint32_t key, uint32_t i, double jitter)
{
    const uint32_t h = caltrin_draw(key, i);
    const double drawn = jitter * (2.0 * caltrin_to_unit(h) - 1.0);
    const double fixed = h >> 31 ? jitter : -jitter;
    return i & 1u ? fixed : drawn;
}

//: soft_level
/* A held level, each reached softly over a part of its time. */
static inline double caltrin_soft_level(double t, uint32_t key, double rate, double jitter, double part)
{
    const double x = t * rate + caltrin_chance_phase(key);
    const double n = caltrin_round_down(x + 0.5);
    const uint32_t near_cell = caltrin_cell_index(n);
    const double past_near = x - n - caltrin_cell_edge(key, near_cell, jitter);
    const uint32_t i = past_near >= 0.0 ? near_cell : near_cell - 1u;
    const double edge = caltrin_cell_edge(key, i, jitter);
    const double passed = past_near >= 0.0 ? past_near : x - n + 1.0 - edge;
    const double soft = part * (1.0 + caltrin_cell_edge(key, i + 1u, jitter) - edge);
    const double to = caltrin_to_unit(caltrin_draw(key ^ 0x68e31da4u, i));
    if (passed >= soft) return to;
    const double from = caltrin_to_unit(caltrin_draw(key ^ 0x68e31da4u, i - 1u));
    return from + (to - from) * caltrin_ease_smooth(passed / soft);
}

//: burst_level
/* Where the n-th burst or pause ends, by running sums of even draws. */
static inline double caltrin_burst_edge(uint32_t n, double on_lo, double on_hi, double off_lo,
    double off_hi, const double *on_sums, const double *off_sums)
{
    const uint32_t begun = (n + 1u) / 2u, ended = n / 2u;
    return on_lo * (double)begun + (on_hi - on_lo) * on_sums[begun]
        + (off_lo * (double)ended + (off_hi - off_lo) * off_sums[ended]);
}

/* 1 while a burst lasts, else 0. The sums have one more than there are pairs. */
static inline double caltrin_burst_level(double t, uint32_t key, double on_lo, double on_hi,
    double off_lo, double off_hi, const double *on_sums, const double *off_sums, uint32_t pairs)
{
    const double whole = caltrin_burst_edge(2u * pairs, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    const double x = t / whole + caltrin_chance_phase(key);
    const double n = caltrin_round_down(x);
    const uint32_t first = 2u * (caltrin_draw(key, caltrin_cell_index(n)) % pairs);
    const double begun = (x - n) * whole
        + caltrin_burst_edge(first, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
    const double u = begun >= whole ? begun - whole : begun;
    uint32_t last = 0u, step;
    for (step = pairs; step > 0u; step /= 2u) {
        const double edge = caltrin_burst_edge(last + step, on_lo, on_hi, off_lo, off_hi, on_sums, off_sums);
        last += u >= edge ? step : 0u;
    }
    return last % 2u == 0u ? 1.0 : 0.0;
}

//: table_level
/* A table's value at place x, straight between its entries 0 to `last`. */
static inline double caltrin_table_level(double x, const double *table, uint32_t last)
{
    const double kept = caltrin_clamp(x, 0.0, (double)last);
    const uint32_t cell = (uint32_t)caltrin_round_down(kept);
    const uint32_t i = cell < last ? cell : last - 1u;
    return caltrin_lerp(table[i], table[i + 1u], kept - (double)i);
}

//: envelope_level
/* The level, 0 to 1, at place x of an envelope with entries 0 to `last`: straight lines between places (the upper 24
   bits) and levels in parts of 255 (the lower 8). */
static inline double caltrin_envelope_level(double x, const uint32_t *envelope, uint32_t last)
{
    uint32_t low = 0u, high = last;
    while (high - low > 1u) {
        const uint32_t middle = (low + high) / 2u;
        if ((double)(envelope[middle] >> 8) <= x)
            low = middle;
        else
            high = middle;
    }
    const double from = (double)(envelope[low] >> 8), to = (double)(envelope[high] >> 8);
    const double a = (double)(envelope[low] & 255u), b = (double)(envelope[high] & 255u);
    return caltrin_lerp(a, b, caltrin_clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0;
}

//: next_place
/* The first of the rising places 0 to `last` that lies after x; 2e9, which no moment reaches, if there is none. */
static inline double caltrin_next_place(double x, const double *places, uint32_t last)
{
    uint32_t low = 0u, high = last + 1u;
    while (low < high) {
        const uint32_t middle = (low + high) / 2u;
        if (places[middle] > x)
            high = middle;
        else
            low = middle + 1u;
    }
    return low <= last ? places[low] : 2e9;
}

//: in_ball
/* One part of a displacement in a ball of radius 1, from three numbers in -1..1. */
static inline double caltrin_in_ball(double a, double b, double c)
{
    const double bb = b * b, cc = c * c;
    return a * sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
}

//: heading
/* One part of a direction of length 1; `still` where there is none. */
static inline double caltrin_heading(double part, double x, double y, double z, double still)
{
    const double length = sqrt(x * x + y * y + z * z);
    return length > 1e-9 ? part / length : still;
}

//: sine_of_turns
static inline double caltrin_sine_of_turns(double x)
{
    const double near_turn = x - caltrin_round_down(x + 0.5);
    const double upper = near_turn > 0.25 ? 0.5 - near_turn : near_turn;
    const double r = upper < -0.25 ? -0.5 - upper : upper;
    const double q = r * r;
    const double high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
    const double low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
    return caltrin_clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0);
}

//: sine_level
/* A wave 0..1, lowest at whole turns x. */
static inline double caltrin_sine_level(double x)
{
    return 0.5 + 0.5 * caltrin_sine_of_turns(x - 0.25);
}

//: triangle_level
static inline double caltrin_triangle_level(double x)
{
    const double r = x - caltrin_round_down(x);
    return r < 0.5 ? 2.0 * r : 2.0 - 2.0 * r;
}

//: saw_level
static inline double caltrin_saw_level(double x)
{
    return x - caltrin_round_down(x);
}

//: square_level
static inline double caltrin_square_level(double x, double on)
{
    return x - caltrin_round_down(x) < on ? 1.0 : 0.0;
}

//: days_of
/* Whole days in a number of hours. */
static inline double caltrin_days_of(double hours)
{
    return caltrin_round_down(hours / 24.0);
}

//: hour_of
/* The hour of the day, 24 excluded, after a number of hours from midnight on. */
static inline double caltrin_hour_of(double hours)
{
    return caltrin_clamp(hours - 24.0 * caltrin_days_of(hours), 0.0, 23.999999999999996);
}

//: hours_level
/* 0 outside and 1 inside of a span of hours: opens from start on, closes from end on. */
static inline double caltrin_hours_level(double hour, double start, double rise, double end, double fall)
{
    const double passed = caltrin_hour_of(hour - start);
    const double open = caltrin_hour_of(end - start);
    const double late = passed < open ? passed - open + 24.0 : passed - open;
    double left = 0.0, level;
    if (late < fall)
        left = 1.0 - late / fall;
    if (passed >= rise)
        return passed < open ? 1.0 : left;
    level = passed / rise;
    if (passed >= open)
        return level > 1.0 - left ? level - (1.0 - left) : 0.0;
    level = level + left;
    return level < 1.0 ? level : 1.0;
}

//: through_level
/* How far the time from one hour to another has passed, 0..1. */
static inline double caltrin_through_level(double hour, double start, double end)
{
    const double passed = caltrin_hour_of(hour - start);
    const double open = caltrin_hour_of(end - start);
    if (passed < open) return passed / open;
    return passed - open < (24.0 - open) * 0.5 ? 1.0 : 0.0;
}

//: arc_tangent
/* The angle of the point (x, y), in degrees. */
static inline double caltrin_arc_tangent(double y, double x)
{
    const double ax = x < 0.0 ? -x : x;
    const double ay = y < 0.0 ? -y : y;
    const bool steep = ay > ax;
    const double small = steep ? ax : ay;
    const double large = steep ? ay : ax;
    if (large == 0.0) return 0.0;
    const double ratio = small / large;
    const bool far = ratio > 0.414213562373095;
    const double z = far ? (ratio - 1.0) / (ratio + 1.0) : ratio;
    const double u = z * z;
    const double a = 2.878903358695536 + u * -1.4504271731546372;
    const double b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
    const double c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
    const double d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
    const double p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
    const double part = far ? 45.0 + z * p : z * p;
    const double half = steep ? 90.0 - part : part;
    const double angle = x < 0.0 ? 180.0 - half : half;
    return y < 0.0 ? -angle : angle;
}

//: arc_sine
/* The angle of a sine, -90..90 degrees. */
static inline double caltrin_arc_sine(double x)
{
    const double kept = caltrin_clamp(x, -1.0, 1.0);
    return caltrin_arc_tangent(kept, sqrt((1.0 - kept) * (1.0 + kept)));
}

//: compass
/* A direction on the compass, 0..360 degrees from north over east. */
static inline double caltrin_compass(double east, double north)
{
    const double angle = caltrin_arc_tangent(east, north);
    return angle < 0.0 ? angle + 360.0 : angle;
}

//: sun_way
/* Turns of the sun on its way through the year, days after noon of 1 January 2000 in UT. */
static inline double caltrin_sun_way(double days)
{
    const double anomaly = 0.9931333333333333 + days * 0.002737778611111111;
    const double mean = 0.7790555555555555 + days * 0.0027379093333333333;
    const double ahead = caltrin_sine_of_turns(anomaly) * 0.005319444444444444;
    return mean + ahead + caltrin_sine_of_turns(anomaly + anomaly) * 0.00005555555555555556;
}

//: axis_tilt
/* How far the axis of the earth leans, in turns. */
static inline double caltrin_axis_tilt(double days)
{
    return 0.06510833333333333 - days * 0.000000001111111111;
}

//: sky_turn
/* How far the sky has turned over a longitude, in turns. */
static inline double caltrin_sky_turn(double days, double longitude)
{
    return 0.77905727325 + days * 1.002737909350795 + longitude / 360.0;
}

//: sky_part
/* East (0), up (1) or south (2) of the direction to the sun, or to what runs ahead of it
   (Michalsky 1988). */
static inline double caltrin_sky_part(double part, double days, double ahead, double latitude, double longitude)
{
    const double way = caltrin_sun_way(days) + ahead;
    const double tilt = caltrin_axis_tilt(days);
    const double across = caltrin_sine_of_turns(way);
    const double x = caltrin_sine_of_turns(way + 0.25);
    const double y = caltrin_sine_of_turns(tilt + 0.25) * across;
    const double z = caltrin_sine_of_turns(tilt) * across;
    const double sky = caltrin_sky_turn(days, longitude);
    const double sine = caltrin_sine_of_turns(sky);
    const double cosine = caltrin_sine_of_turns(sky + 0.25);
    if (part == 0.0) return caltrin_clamp(y * cosine - x * sine, -1.0, 1.0);
    const double meridian = x * cosine + y * sine;
    const double low = caltrin_sine_of_turns(latitude / 360.0);
    const double high = caltrin_sine_of_turns(latitude / 360.0 + 0.25);
    const double toward = part == 1.0 ? low * z + high * meridian : low * meridian - high * z;
    return caltrin_clamp(toward, -1.0, 1.0);
}

//: sun_hour
/* The hour at which the sun passes a height, by its sine: rising (-1), highest (0), setting (1). */
static inline double caltrin_sun_hour(double side, double days, double latitude, double longitude, double sine)
{
    const double low = caltrin_sine_of_turns(latitude / 360.0);
    const double high = caltrin_sine_of_turns(latitude / 360.0 + 0.25);
    double hour = 12.0;
    double aim = 0.0;
    int pass;
    for (pass = 0; pass < 4; ++pass) {
        const double now = days + hour / 24.0;
        const double way = caltrin_sun_way(now);
        const double tilt = caltrin_axis_tilt(now);
        const double across = caltrin_sine_of_turns(way);
        const double x = caltrin_sine_of_turns(way + 0.25);
        const double y = caltrin_sine_of_turns(tilt + 0.25) * across;
        const double z = caltrin_sine_of_turns(tilt) * across;
        const double left = aim - (caltrin_sky_turn(now, longitude) - caltrin_arc_tangent(y, x) / 360.0);
        const double flat = sqrt((1.0 - z) * (1.0 + z));
        const double cosine = high * flat > 1e-12 ? high * flat : 1e-12;
        const double share = caltrin_clamp((sine - low * z) / cosine, -1.0, 1.0);
        hour = hour + 24.0 * (left - caltrin_round_down(left + 0.5));
        aim = side * (0.25 - caltrin_arc_sine(share) / 360.0);
    }
    return caltrin_hour_of(hour);
}

//: sun_stays
/* Whether the sun stays below (-1) or above (1) a height on a day, by its sine. */
static inline double caltrin_sun_stays(double days, double latitude, double longitude, double sine)
{
    const double noon = caltrin_sun_hour(0.0, days, latitude, longitude, sine);
    const double low = caltrin_sine_of_turns(latitude / 360.0);
    const double high = caltrin_sine_of_turns(latitude / 360.0 + 0.25);
    double stays = 0.0;
    double side;
    for (side = -1.0; side < 2.0; side += 2.0) {
        const double hour = caltrin_sun_hour(side, days, latitude, longitude, sine);
        const double after = caltrin_hour_of(side * (hour - noon));
        const double apart = after > 18.0 ? after - 24.0 : after;
        const double now = days + (noon + side * apart) / 24.0;
        const double z = caltrin_sine_of_turns(caltrin_axis_tilt(now)) * caltrin_sine_of_turns(caltrin_sun_way(now));
        const double flat = sqrt((1.0 - z) * (1.0 + z));
        const double cosine = high * flat > 1e-12 ? high * flat : 1e-12;
        const double share = (sine - low * z) / cosine;
        if (share > 0.9999)
            stays -= 1.0;
        else if (share < -0.9999)
            stays += 1.0;
    }
    return stays * 0.5;
}

//: root
static inline double caltrin_root(double x)
{
    return sqrt(x > 0.0 ? x : 0.0);
}

//: decay
/* What is left of what falls to 1/e of itself again and again, after `x` such times. */
static inline double caltrin_decay(double x)
{
    double twos, whole, f, p, half = 0.5;
    uint32_t left;
    if (!(x > 0.0)) return 1.0;
    if (x >= 700.0) return 0.0;
    twos = x * 1.4426950408889634;
    whole = caltrin_round_down(twos + 0.5);
    f = whole - twos;
    p = 1.021147686687256e-07;
    p = p * f + 1.325964614231444e-06;
    p = p * f + 1.5252641585726547e-05;
    p = p * f + 0.000154034337467768;
    p = p * f + 0.0013333558259554714;
    p = p * f + 0.009618129193941272;
    p = p * f + 0.05550410866424362;
    p = p * f + 0.24022650695640305;
    p = p * f + 0.6931471805599538;
    p = p * f + 1.0000000000000135;
    for (left = (uint32_t)whole; left > 0u; left >>= 1) {
        if (left & 1u) p *= half;
        half *= half;
    }
    return p < 1.0 ? p : 1.0;
}

//: next_look
/* The first whole number of 1/120 s after a moment. */
static inline double caltrin_next_look(double t)
{
    const double n = caltrin_round_down(t * 120.0) + 1.0;
    const double look = n / 120.0;
    return look > t ? look : (n + 1.0) / 120.0;
}

//: cube_root
static inline double caltrin_cube_root(double x)
{
    double scale = 1.0, y, c;
    int step;
    if (x < 1e-30) return 0.0;
    while (x >= 1.0) { x *= 0.125; scale *= 2.0; }
    while (x < 0.125) { x *= 8.0; scale *= 0.5; }
    y = 0.3812513196434336 + x * (1.0723022680799823 - 0.46946113360511893 * x);
    for (step = 0; step < 2; ++step) {
        c = y * y * y;
        y = y * (c + 2.0 * x) / (2.0 * c + x);
    }
    return y * scale;
}

//: cone_l
/* The root of the long cones' response to linear light, as in OKLab. */
static inline double caltrin_cone_l(double r, double g, double b)
{
    return caltrin_cube_root(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
}

//: cone_m
/* The root of the middle cones' response to linear light, as in OKLab. */
static inline double caltrin_cone_m(double r, double g, double b)
{
    return caltrin_cube_root(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
}

//: cone_s
/* The root of the short cones' response to linear light, as in OKLab. */
static inline double caltrin_cone_s(double r, double g, double b)
{
    return caltrin_cube_root(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
}

//: light_r
/* Linear red from the roots of the cones' responses. */
static inline double caltrin_light_r(double l, double m, double s)
{
    const double v = 4.0767416621 * (l * l * l) + -3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
    return v > 0.0 ? v : 0.0;
}

//: light_g
/* Linear green from the roots of the cones' responses. */
static inline double caltrin_light_g(double l, double m, double s)
{
    const double v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) + -0.3413193965 * (s * s * s);
    return v > 0.0 ? v : 0.0;
}

//: light_b
/* Linear blue from the roots of the cones' responses. */
static inline double caltrin_light_b(double l, double m, double s)
{
    const double v = -0.0041960863 * (l * l * l) + -0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
    return v > 0.0 ? v : 0.0;
}

//: faded
/* On the way from one level to another since a moment, softly; then there to stay. */
static inline double caltrin_faded(double from, double to, double since, double over, double now)
{
    if (now >= since + over) return to;
    return caltrin_lerp(from, to, caltrin_ease_smooth(caltrin_clamp((now - since) / over, 0.0, 1.0)));
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
    return caltrin_clamp(t, -1e9, 1e9);
}

//: clean_input
/* What is not a finite number is `fallback`; the rest is kept within its bounds. */
static inline double caltrin_clean_input(double v, double lo, double hi, double fallback)
{
    uint64_t bits;
    memcpy(&bits, &v, sizeof bits);
    if ((bits & 0x7ff0000000000000u) == 0x7ff0000000000000u) return fallback;
    if (v >= -1e-30 && v <= 1e-30) v = 0.0;
    return caltrin_clamp(v, lo, hi);
}

//: at_most
/* The index of what is read, also of a lamp beyond the last. */
static inline uint32_t caltrin_at_most(uint32_t index, uint32_t last)
{
    return index < last ? index : last;
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
    return (float)caltrin_clamp(v, -3.4028234663852886e38, 3.4028234663852886e38);
}
//: end
