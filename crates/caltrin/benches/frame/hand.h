/* The lights of bench.caltrin as an engine programmer would write them by hand. */
#include <stdint.h>

typedef struct { float intensity, color[3], reach, position[3]; } hand_lamp;

static uint32_t hand_mix(uint32_t x)
{
    x ^= x >> 16; x *= 0x21f0aaadu;
    x ^= x >> 15; x *= 0x735a2d97u;
    return x ^ (x >> 15);
}

static uint32_t hand_key(uint32_t a, uint32_t b)
{
    return hand_mix((hand_mix(a + 0x9e3779b9u) ^ b) + 0x85ebca6bu);
}

static double hand_floor(double x)
{
    const double r = (double)(int64_t)x;
    return r > x ? r - 1.0 : r;
}

static double hand_held(double t, uint32_t key, double lo, double hi)
{
    const double x = t * (2.0 / 0.3) + (hand_mix(key + 0x9e3779b9u) >> 8) * (1.0 / 16777216.0);
    const double n = hand_floor(x + 0.5);
    uint32_t i = (uint32_t)(int64_t)n;
    const uint32_t h = hand_mix(hand_mix(i + key) ^ key);
    double edge = h >> 31 ? 0.3 : -0.3;
    if (!(i & 1)) edge = 0.3 * (2.0 * ((h >> 8) * (1.0 / 16777216.0)) - 1.0);
    if (x - n < edge) --i;
    key ^= 0x68e31da4u;
    return lo + (hi - lo) * ((hand_mix(hand_mix(i + key) ^ key) >> 8) * (1.0 / 16777216.0));
}

static double hand_smooth(double a, double b, double u)
{
    return a + (b - a) * (u * u * (3.0 - 2.0 * u));
}

static double hand_supply(double t)
{
    const double x = t - hand_floor(t / 7.3) * 7.3;
    if (x < 1.4) return 1.0;
    if (x < 1.85) return hand_smooth(1.0, 0.82, (x - 1.4) / 0.45);
    if (x < 2.5) return hand_smooth(0.82, 1.12, (x - 1.85) / 0.65);
    if (x < 3.0) return 1.12 - 0.17 * ((x - 2.5) / 0.5);
    if (x < 3.7) return hand_smooth(0.95, 1.0, (x - 3.0) / 0.7);
    return 1.0;
}

static __attribute__((noinline)) void hand_row(double t, uint32_t seed, uint32_t count, hand_lamp *out)
{
    const double supply = hand_supply(t);
    const uint32_t light = hand_key(seed, 17);
    uint32_t n;
    for (n = 0; n < count; ++n) {
        const uint32_t key = hand_key(light ^ hand_mix(n), 5);
        out[n].intensity = (float)(6200.0 * hand_held(t, key, 0.85, 1.0) * supply);
        out[n].color[0] = 1.0f; out[n].color[1] = 0.28f; out[n].color[2] = 0.0175f;
        out[n].reach = 14.0f;
        out[n].position[0] = (float)(7.0 * n); out[n].position[1] = 6.0f; out[n].position[2] = 0.0f;
    }
}

static __attribute__((noinline)) hand_lamp hand_single(double t, uint32_t seed)
{
    hand_lamp lamp;
    lamp.intensity = (float)(700.0 * hand_held(t, hand_key(hand_key(seed, 18), 5), 0.6, 1.0) * hand_supply(t));
    lamp.color[0] = 1.0f; lamp.color[1] = 0.36f; lamp.color[2] = 0.06f;
    lamp.reach = 9.0f;
    lamp.position[0] = 1.0f; lamp.position[1] = 3.0f; lamp.position[2] = 9.0f;
    return lamp;
}

static double hand_unit(uint32_t key, uint32_t i)
{
    return (hand_mix(hand_mix(i + key) ^ key) >> 8) * (1.0 / 16777216.0);
}

static double hand_phase(uint32_t key)
{
    return (hand_mix(key + 0x9e3779b9u) >> 8) * (1.0 / 16777216.0);
}

static double hand_noise(double x, uint32_t key)
{
    const double n = hand_floor(x), f = x - n;
    const uint32_t i = (uint32_t)(int64_t)n;
    const double a = hand_unit(key, i), b = hand_unit(key, i + 1);
    return a + (b - a) * (f * f * f * (f * (6.0 * f - 15.0) + 10.0));
}

static double hand_edge(uint32_t key, uint32_t i, double jitter)
{
    const uint32_t h = hand_mix(hand_mix(i + key) ^ key);
    if (i & 1) return h >> 31 ? jitter : -jitter;
    return jitter * (2.0 * ((h >> 8) * (1.0 / 16777216.0)) - 1.0);
}

/* A gas mantle: it sinks with the pressure and trembles finely. */
static double hand_mantle_level(double t, uint32_t key)
{
    const uint32_t slow = hand_key(key, 1), fine = hand_key(key, 2);
    const double x = t * 0.5 + hand_phase(slow);
    const double drift = (2.0 * hand_noise(x, slow) + hand_noise(2.0 * x + 0.37, slow + 0x9e3779b9u)) / 3.0;
    const double y = t * (2.0 / 0.17) + hand_phase(fine);
    const double n = hand_floor(y + 0.5);
    uint32_t i = (uint32_t)(int64_t)n;
    if (y - n < hand_edge(fine, i, 0.09 / 0.34)) --i;
    return (0.9 + 0.1 * drift) * (0.96 + 0.04 * hand_unit(fine ^ 0x68e31da4u, i));
}

/* An open flame: it licks and ducks, and now and then the wind takes it. */
static double hand_flame_level(double t, uint32_t key)
{
    const uint32_t body = hand_key(key, 1), wind = hand_key(key, 2);
    const double x = t * 5.0 + hand_phase(body), x2 = 2.0 * x + 0.37, x3 = 2.0 * x2 + 0.37;
    const double lick = (4.0 * hand_noise(x, body) + 2.0 * hand_noise(x2, body + 0x9e3779b9u)
        + hand_noise(x3, body + 2u * 0x9e3779b9u)) / 7.0;
    const double jitter = 1.6 / 4.4, y = t * (2.0 / 2.2) + hand_phase(wind);
    const double n = hand_floor(y + 0.5);
    uint32_t i = (uint32_t)(int64_t)n;
    double edge = hand_edge(wind, i, jitter), passed = y - n - edge, soft, level, u;
    if (passed < 0.0) {
        --i;
        edge = hand_edge(wind, i, jitter);
        passed = y - n + 1.0 - edge;
    }
    soft = 0.45 * (1.0 + hand_edge(wind, i + 1, jitter) - edge);
    level = hand_unit(wind ^ 0x68e31da4u, i);
    if (passed < soft) {
        const double before = hand_unit(wind ^ 0x68e31da4u, i - 1);
        level = hand_smooth(before, level, passed / soft);
    }
    u = (level - 0.68) / 0.2;
    u = u < 0.0 ? 0.0 : u > 1.0 ? 1.0 : u;
    return (0.65 + 0.35 * lick) * (1.0 - 0.4 * (u * u * (3.0 - 2.0 * u)));
}

static __attribute__((noinline)) void hand_mantle(double t, uint32_t seed, uint32_t count, hand_lamp *out)
{
    const uint32_t light = hand_key(seed, 19);
    uint32_t n;
    for (n = 0; n < count; ++n) {
        out[n].intensity = (float)(700.0 * hand_mantle_level(t, light ^ hand_mix(n)));
        out[n].color[0] = 1.0f; out[n].color[1] = 0.33f; out[n].color[2] = 0.04f;
        out[n].reach = 9.0f;
        out[n].position[0] = (float)(4.0 * n); out[n].position[1] = 3.0f; out[n].position[2] = 0.0f;
    }
}

static __attribute__((noinline)) void hand_flame(double t, uint32_t seed, uint32_t count, hand_lamp *out)
{
    const uint32_t light = hand_key(seed, 20);
    uint32_t n;
    for (n = 0; n < count; ++n) {
        out[n].intensity = (float)(900.0 * hand_flame_level(t, light ^ hand_mix(n)));
        out[n].color[0] = 1.0f; out[n].color[1] = 0.22f; out[n].color[2] = 0.0f;
        out[n].reach = 11.0f;
        out[n].position[0] = (float)(4.0 * n); out[n].position[1] = 1.0f; out[n].position[2] = 0.0f;
    }
}
