// Harbor siding. Made by caltrin from siding.caltrin.
//
// Change the lightbook and export again rather than this file.
//
// GLSL 3.30 and GLSL ES 3.00, without a version line: put it into a shader after `#version` and, in ES, after
// `precision highp float; precision highp int;`. It declares no uniforms and has no main function.
//
// Each light is a function of the frame and the lamp's index. The frame is 12 bytes of scalars, the same in a
// uniform block of std140: fill it on the CPU once a frame. Of a moment `t` of the run in double precision, `seconds` is
// floor(t) and `fraction` is (t - floor(t)) * 4294967296.0, both as 32-bit words.
//
// Single precision: each channel differs from the preview by at most 1/4096 of the channel's largest value, and jumps
// occur at most 61 microseconds early or late. Largest differences measured when this file was written:
//
//     harbor_siding_window: 1.5e-9 in 1000 hours
//     harbor_siding_ramp_glow: 0 in 1000 hours
//     harbor_siding_ramp_core: 9.5e-8 in 1000 hours
//     harbor_siding_platform_tube: 6.9e-8 in 1 hour
//     harbor_siding_workshop: 1.1e-7 in 1000 hours
//     harbor_siding_beacon: 0 in 1000 hours
//     harbor_siding_mole: 0 in 1000 hours
//     harbor_siding_ripples: 0 in 1000 hours
//     harbor_siding_night: 0 in 1000 hours
//     harbor_siding_harbor_stars: 6.0e-8 in 1000 hours
//
// Not in this file:
//
//     nothing

// Separates the draws of levels from those of edges.
const uint HARBOR_SIDING_LEVELS = 0x68e31da4u;
// From the key of one octave to that of the next; also separates the draws of phases.
const uint HARBOR_SIDING_OCTAVE = 0x9e3779b9u;
// Largest number that is converted to fixed point.
const float HARBOR_SIDING_LARGEST_FIXED = 2147483520.0;
// Largest factor of fixed_times.
const float HARBOR_SIDING_LARGEST_FACTOR = 65535.99609375;

const float harbor_siding_bursts_on[65] = float[65](
    0.0, 0.7155, 1.0152, 1.238, 1.2404, 2.0157, 2.8663, 3.7311, 4.5633, 4.7371, 5.1279, 6.0236, 6.3127,
    7.1598, 8.0075, 8.8125, 9.5932, 9.6597, 9.696, 10.6821, 11.3451, 11.8288, 12.7837, 13.1694, 13.9033,
    14.8109, 15.5938, 16.2674, 16.6973, 16.8333, 17.43, 17.7617, 17.8614, 18.6344, 19.5996, 20.1417, 20.1748,
    20.377, 21.1412, 21.3314, 21.5376, 22.1011, 23.0341, 24.0179, 24.453, 24.8634, 25.2002, 25.3501, 26.1601,
    26.9151, 27.7543, 28.1657, 28.541, 29.1283, 29.8095, 30.2508, 30.7433, 31.0401, 31.3425, 32.2912,
    32.4584, 32.758, 33.7317, 34.6752, 35.2245
);

const float harbor_siding_bursts_off[65] = float[65](
    0.0, 0.7738, 1.3437, 1.6987, 1.9061, 2.4112, 3.1283, 3.642, 4.4697, 4.9292, 5.8406, 6.5692, 6.7153,
    7.5377, 7.6336, 8.3037, 8.7525, 9.1311, 9.8135, 10.3444, 11.276, 11.4266, 11.4836, 12.4501, 12.4798,
    13.3973, 13.533, 13.6373, 14.0338, 14.4989, 14.5389, 14.8797, 15.8484, 16.5283, 16.5303, 16.6322,
    17.1037, 17.863, 17.8875, 18.2454, 19.1154, 19.3658, 19.6642, 20.3023, 20.4718, 20.8784, 21.3826,
    22.0989, 22.786, 22.9712, 23.2326, 23.9456, 24.4821, 25.4601, 25.5671, 26.4133, 26.7146, 27.2721, 27.472,
    28.1412, 28.2784, 28.4203, 28.6996, 28.763, 28.8298
);

// `ease-out` as 16 polynomials of the fifth degree, each over a part of 0..1, the highest power first; within
// 1e-7 of the exact curve.
const float harbor_siding_ease_out_pieces[96] = float[96](
    -5.490921e-7, -9.215858e-6, -0.0002179108, 0.013469838, -5.875513e-10, 0.0, -7.812906e-7, -1.1921503e-5,
    -0.00026039203, 0.012755324, 0.026246332, 0.013242161, -1.1470304e-6, -1.5759735e-5, -0.00031609106,
    0.011894814, 0.050924208, 0.05197072, -1.7479913e-6, -2.1372029e-5, -0.00039092984, 0.010840527,
    0.073696785, 0.11445674, -2.7870349e-6, -2.9877057e-5, -0.00049446913, 0.0095220525, 0.09411081,
    0.19858001, -4.6994273e-6, -4.3328724e-5, -0.00064290303, 0.00783157, 0.11153805, 0.30168575,
    -8.507327e-6, -6.5734406e-5, -0.00086532463, 0.0055960226, 0.12507565, 0.42036444, -1.6904405e-5,
    -0.00010549397, -0.0012180302, 0.002520897, 0.13336618, 0.5500965, 3.3712427e-6, -4.095287e-7,
    0.00076797744, -0.0187167, 0.13424733, 0.6846432, 1.2579135e-6, 1.6057196e-5, 0.00079885987, -0.01638156,
    0.099133074, 0.80094475, -6.317713e-7, 2.2480895e-5, 0.00087462954, -0.013876041, 0.06883704, 0.8845124,
    -3.06151e-6, 1.9573228e-5, 0.0009569219, -0.011123556, 0.043795593, 0.9403699, -5.874328e-6,
    4.2603197e-6, 0.0010031016, -0.008165967, 0.024482217, 0.9740154, -7.872888e-6, -2.5796358e-5,
    0.0009603606, -0.005189924, 0.011147244, 0.9913331, -7.187174e-6, -6.6550456e-5, 0.0007788408,
    -0.002542512, 0.0035059326, 0.99821717, -2.9637686e-6, -0.00010373525, 0.0004430137, -0.00067731005,
    0.0004553202, 0.9998857
);

// `ease-in` as 16 polynomials of the fifth degree, each over a part of 0..1, the highest power first; within
// 1e-7 of the exact curve.
const float harbor_siding_ease_in_pieces[96] = float[96](
    -2.9637686e-6, 0.0001185541, -1.5650014e-6, 3.1816734e-7, -1.8676527e-8, 0.0, -7.187174e-6,
    0.00010248633, 0.00044076724, 0.0006771641, 0.00045529334, 0.000114324816, -7.872888e-6, 6.51608e-5,
    0.00077844627, 0.0025423493, 0.0035059277, 0.0017828486, -5.874328e-6, 2.5111322e-5, 0.00096139964,
    0.0051898435, 0.011147256, 0.00866686, -3.06151e-6, -4.265678e-6, 0.0010045997, 0.008165966, 0.024482233,
    0.025984596, -6.317713e-7, -1.932204e-5, 0.0009582354, 0.0111235855, 0.04379561, 0.05963007,
    1.2579135e-6, -2.2346763e-5, 0.0008756678, 0.013876057, 0.068837054, 0.115487546, 3.3712424e-6,
    -1.6446684e-5, 0.0008000517, 0.016381513, 0.09913309, 0.19905524, -1.6904405e-5, 0.000190016,
    -0.0018090502, 0.0019352017, 0.13424739, 0.31535682, -8.507327e-6, 0.00010827104, -0.0012133355,
    -0.002520569, 0.13336624, 0.44990346, -4.6994273e-6, 6.682586e-5, -0.0008632122, -0.0055958936,
    0.12507567, 0.57963556, -2.7870349e-6, 4.3812233e-5, -0.0006418477, -0.007831512, 0.11153807, 0.69831425,
    -1.7479913e-6, 3.0111985e-5, -0.0004938979, -0.009522025, 0.09411082, 0.80142, -1.1470304e-6,
    2.1494887e-5, -0.00039060033, -0.010840512, 0.07369679, 0.8855432, -7.812907e-7, 1.5827956e-5,
    -0.00031589094, -0.011894805, 0.05092421, 0.9480293, -5.4909214e-7, 1.1961319e-5, -0.00026026517,
    -0.0127553195, 0.026246333, 0.9867578
);

// Mixes 32 bits; one-to-one, and 0 stays 0.
uint harbor_siding_scramble(uint x) {
    uint x_2 = x;
    x_2 ^= x_2 >> 16u;
    x_2 *= 0x21f0aaadu;
    x_2 ^= x_2 >> 15u;
    x_2 *= 0x735a2d97u;
    return x_2 ^ (x_2 >> 15u);
}

// Key of one random place under a seed, or under another key.
uint harbor_siding_chance_key(uint seed, uint place) {
    return harbor_siding_scramble((harbor_siding_scramble(seed + HARBOR_SIDING_OCTAVE) ^ place)
            + 0x85ebca6bu);
}

// Key of one lamp of an array. Lamp 0 keeps the key.
uint harbor_siding_lamp_key(uint key, uint lamp) {
    return key ^ harbor_siding_scramble(lamp);
}

// A draw as a number from 0 to 1 (excluded), in steps of 2^-24.
float harbor_siding_to_unit(uint bits) {
    return float(bits >> 8u) * (1.0 / 16777216.0);
}

// Where the cells of a key begin, from 0 to 1.
float harbor_siding_chance_phase(uint key) {
    return harbor_siding_to_unit(harbor_siding_scramble(key + HARBOR_SIDING_OCTAVE));
}

// The upper 32 bits of a product of words, by their halves.
uint harbor_siding_upper_product(uint a, uint b) {
    uint a_low = a & 65535u;
    uint a_high = a >> 16u;
    uint b_low = b & 65535u;
    uint b_high = b >> 16u;
    uint carried = (a_low * b_low) >> 16u;
    uint first = (a_high * b_low) + carried;
    uint second = (a_low * b_high) + (first & 65535u);
    return (a_high * b_high) + (first >> 16u) + (second >> 16u);
}

// The difference of two fixed-point numbers.
uvec2 harbor_siding_fixed_difference(uvec2 a, uvec2 b) {
    uint borrowed = a.y < b.y ? 1u : 0u;
    uint part = a.y - b.y;
    return uvec2(a.x - b.x - borrowed, part);
}

// A fixed-point number times a factor of 16 bits before the point and 48 after it.
uvec2 harbor_siding_fixed_scaled(uvec2 a, uint high, uint low) {
    uint whole = a.x;
    uint part = a.y;
    uint first = harbor_siding_upper_product(part, low);
    uint second = (whole * low) + first;
    uint over = second < first ? 1u : 0u;
    uint third = (part * high) + second;
    if (third < second) over = over + 1u;
    uint fourth = harbor_siding_upper_product(whole, low) + over;
    uint up = fourth < over ? 1u : 0u;
    uint fifth = harbor_siding_upper_product(part, high) + fourth;
    if (fifth < fourth) up = up + 1u;
    uint sixth = (whole * high) + fifth;
    if (sixth < fifth) up = up + 1u;
    uint top = harbor_siding_upper_product(whole, high) + up;
    uvec2 shifted = uvec2((sixth >> 16u) + (top * 0x00010000u), (third >> 16u) + (sixth * 0x00010000u));
    if ((whole >> 31u) == 0u) return shifted;
    return harbor_siding_fixed_difference(shifted,
        uvec2((low >> 16u) + (high * 0x00010000u), low * 0x00010000u));
}

// The phase of a key's cells.
uvec2 harbor_siding_cells_from(uint key) {
    return uvec2(0u, (harbor_siding_scramble(key + HARBOR_SIDING_OCTAVE) >> 8u) * 256u);
}

// The sum of two fixed-point numbers.
uvec2 harbor_siding_fixed_sum(uvec2 a, uvec2 b) {
    uint part = a.y + b.y;
    uint carried = part < a.y ? 1u : 0u;
    return uvec2(a.x + b.x + carried, part);
}

// The fraction of a fixed-point number, in steps of 2^-24.
float harbor_siding_fraction_of(uvec2 a) {
    return harbor_siding_to_unit(a.y);
}

// The `n`-th random draw of a key: 32 even bits.
uint harbor_siding_draw(uint key, uint n) {
    return harbor_siding_scramble(harbor_siding_scramble(n + key) ^ key);
}

// Where cell `i` of a held level begins, from `i`: at most `jitter` either way.
float harbor_siding_cell_edge(uint key, uint i, float jitter) {
    uint bits = harbor_siding_draw(key, i);
    float drawn = jitter * (2.0 * harbor_siding_to_unit(bits) - 1.0);
    float steady = (bits >> 31u) != 0u ? jitter : -jitter;
    return (i & 1u) != 0u ? steady : drawn;
}

// A level from 0 to 1 that is drawn again in each cell `x`, whose edges are moved by at most `jitter`.
float harbor_siding_held_level(uvec2 x, uint key, float jitter) {
    uvec2 middle = uvec2(0u, 0x80000000u);
    uvec2 near_2 = harbor_siding_fixed_sum(harbor_siding_fixed_sum(x, harbor_siding_cells_from(key)), middle);
    uint i = near_2.x;
    uint early = harbor_siding_fraction_of(near_2) - 0.5 < harbor_siding_cell_edge(key, i, jitter) ? 1u : 0u;
    return harbor_siding_to_unit(harbor_siding_draw(key ^ HARBOR_SIDING_LEVELS, i - early));
}

// Behavior, a copy for each use -- stock:78: behavior television_tint(cuts = 3.4s) = drawn(#7fa8ff, #b9c8ff,
// #ffe2c0, #8fe0ff, #d8d0ff, every ...
float harbor_siding_television_tint_r(uvec2 t, uint key, float cuts) {
    float shortest = cuts / 9.0;
    float part = harbor_siding_held_level(harbor_siding_fixed_scaled(t, 34695u, 0x87878788u),
        harbor_siding_chance_key(key, 0x2fc62c85u), (cuts - shortest) / (2.0 * (shortest + cuts)));
    return 0.2 > part
        ? 0.21223076
        : 0.4 > part
        ? 0.48514995
        : 0.6 > part
        ? 1.0
        : 0.8 > part
        ? 0.2746773
        : 0.6866853;
}

// Behavior, a copy for each use -- stock:78: behavior television_tint(cuts = 3.4s) = drawn(#7fa8ff, #b9c8ff,
// #ffe2c0, #8fe0ff, #d8d0ff, every ...
float harbor_siding_television_tint_g(uvec2 t, uint key, float cuts) {
    float shortest = cuts / 9.0;
    float part = harbor_siding_held_level(harbor_siding_fixed_scaled(t, 34695u, 0x87878788u),
        harbor_siding_chance_key(key, 0x2fc62c85u), (cuts - shortest) / (2.0 * (shortest + cuts)));
    return 0.2 > part
        ? 0.39157248
        : 0.4 > part
        ? 0.57758045
        : 0.6 > part
        ? 0.7605245
        : 0.8 > part
        ? 0.7454042
        : 0.63075715;
}

// Behavior, a copy for each use -- stock:78: behavior television_tint(cuts = 3.4s) = drawn(#7fa8ff, #b9c8ff,
// #ffe2c0, #8fe0ff, #d8d0ff, every ...
float harbor_siding_television_tint_b(uvec2 t, uint key, float cuts) {
    float shortest = cuts / 9.0;
    float part = harbor_siding_held_level(harbor_siding_fixed_scaled(t, 34695u, 0x87878788u),
        harbor_siding_chance_key(key, 0x2fc62c85u), (cuts - shortest) / (2.0 * (shortest + cuts)));
    return 0.2 > part ? 1.0 : 0.4 > part ? 1.0 : 0.6 > part ? 0.5271151 : 1.0;
}

// The larger of two numbers.
float harbor_siding_max(float a, float b) {
    return b > a ? b : a;
}

// `v` limited to `lo..hi`.
float harbor_siding_clamp(float v, float lo, float hi) {
    float above = v < lo ? lo : v;
    return above > hi ? hi : above;
}

// `lo` at 0, `hi` at 1, and never outside of the two.
float harbor_siding_lerp(float lo, float hi, float s) {
    float v = lo + (hi - lo) * s;
    return lo <= hi ? harbor_siding_clamp(v, lo, hi) : harbor_siding_clamp(v, hi, lo);
}

// A level from 0 to 1 that passes smoothly through random at whole numbers `x`.
float harbor_siding_noise(uvec2 x, uint key) {
    float f = harbor_siding_fraction_of(x);
    uint i = x.x;
    float eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
    float s = eased > 1.0 ? 1.0 : eased;
    float a = harbor_siding_to_unit(harbor_siding_draw(key, i));
    float b = harbor_siding_to_unit(harbor_siding_draw(key, i + 1u));
    return a + (b - a) * s;
}

// A level from 0 to 1 that drifts smoothly, a draw in each cell `x`, and for each octave after the first one
// of half the depth and twice the rate.
float harbor_siding_drift_level(uvec2 x, uint key, uint octaves) {
    uvec2 at = harbor_siding_fixed_sum(x, harbor_siding_cells_from(key));
    uint k = key;
    float sum = harbor_siding_noise(at, k);
    float total = 1.0;
    for (uint pass = 1u; pass < octaves; ++pass) {
        at = harbor_siding_fixed_sum(harbor_siding_fixed_sum(at, at), uvec2(0u, 0x5eb851ecu));
        k = k + HARBOR_SIDING_OCTAVE;
        sum = 2.0 * sum + harbor_siding_noise(at, k);
        total = 2.0 * total + 1.0;
    }
    return sum / total;
}

// Behavior, a copy for each use -- stock:74: behavior television_glow(cuts = 3.4s, depth = 65%) = held(100% -
// depth..100%, every cuts / 9..cut...
float harbor_siding_television_glow(uvec2 t, uint key, float cuts, float depth) {
    float shortest = cuts / 9.0;
    return harbor_siding_lerp(1.0 - depth, 1.0,
            harbor_siding_held_level(harbor_siding_fixed_scaled(t, 34695u, 0x87878788u),
                harbor_siding_chance_key(key, 0x6de0ce28u), (cuts - shortest) / (2.0 * (shortest + cuts))))
        * (0.75
            + 0.25
                * harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00030000u, 0u),
                    harbor_siding_chance_key(key, 0xd7080d39u), 2u));
}

// A part of a whole; 0 of a whole that is not above 0.
float harbor_siding_share(float part, float whole) {
    return whole > 0.0 ? part / whole : 0.0;
}

// Behavior, a copy for each use -- stock:8: behavior gas_mantle(pressure = 10%, hiss = 4%)
float harbor_siding_gas_mantle(uvec2 t, uint key, float pressure, float hiss) {
    float supply = harbor_siding_lerp(1.0 - pressure, 1.0,
        harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 32768u, 0u),
            harbor_siding_chance_key(key, 0x3adaf29bu), 2u));
    float tremble = harbor_siding_lerp(1.0 - hiss, 1.0,
        harbor_siding_held_level(harbor_siding_fixed_scaled(t, 0x000bc3c3u, 0xc3c3c3c4u),
            harbor_siding_chance_key(key, 0x7f9818c2u), 0.2647059));
    return supply * tremble;
}

// One coordinate of a displacement within a ball of radius 1, from three numbers in -1..1 of which `a` is
// that coordinate's.
float harbor_siding_in_ball(float a, float b, float c) {
    float bb = b * b;
    float cc = c * c;
    return a * sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
}

// Behavior, a copy for each use, m -- stock:48: behavior flame_sway(radius = 4cm, lick = 4Hz) = wander(radius
// radius, rate lick, octaves 2)
float harbor_siding_flame_sway_x(uvec2 t, uint key, float radius) {
    return harbor_siding_in_ball(harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xac9567cau), 2u)
                    * 2.0
                - 1.0,
            harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xc6d33457u), 2u)
                    * 2.0
                - 1.0,
            harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xb1660328u), 2u)
                    * 2.0
                - 1.0)
        * radius;
}

// Behavior, a copy for each use, m -- stock:48: behavior flame_sway(radius = 4cm, lick = 4Hz) = wander(radius
// radius, rate lick, octaves 2)
float harbor_siding_flame_sway_y(uvec2 t, uint key, float radius) {
    return harbor_siding_in_ball(harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xc6d33457u), 2u)
                    * 2.0
                - 1.0,
            harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xb1660328u), 2u)
                    * 2.0
                - 1.0,
            harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xac9567cau), 2u)
                    * 2.0
                - 1.0)
        * radius;
}

// Behavior, a copy for each use, m -- stock:48: behavior flame_sway(radius = 4cm, lick = 4Hz) = wander(radius
// radius, rate lick, octaves 2)
float harbor_siding_flame_sway_z(uvec2 t, uint key, float radius) {
    return harbor_siding_in_ball(harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xb1660328u), 2u)
                    * 2.0
                - 1.0,
            harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xac9567cau), 2u)
                    * 2.0
                - 1.0,
            harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00040000u, 0u),
                        harbor_siding_chance_key(key, 0xc6d33457u), 2u)
                    * 2.0
                - 1.0)
        * radius;
}

// When the `n`-th burst or pause of a turn ends, in seconds, by running sums of even draws.
float harbor_siding_burst_edge_of_bursts_on_bursts_off(uint n, float on_lo, float on_hi, float off_lo,
    float off_hi) {
    uint begun = (n + 1u) / 2u;
    uint ended = n / 2u;
    float on = on_lo * float(begun) + (on_hi - on_lo) * harbor_siding_bursts_on[begun];
    return on + (off_lo * float(ended) + (off_hi - off_lo) * harbor_siding_bursts_off[ended]);
}

// A number without its sign.
float harbor_siding_absolute(float x) {
    return x < 0.0 ? -x : x;
}

// The smaller of two numbers.
float harbor_siding_min(float a, float b) {
    return b < a ? b : a;
}

// A fixed-point number with the opposite sign.
uvec2 harbor_siding_fixed_opposite(uvec2 a) {
    return harbor_siding_fixed_difference(uvec2(0u, 0u), a);
}

// A fixed-point number times a number below 65536.
uvec2 harbor_siding_fixed_times(uvec2 a, float x) {
    float size = harbor_siding_min(harbor_siding_absolute(x), HARBOR_SIDING_LARGEST_FACTOR);
    float whole = floor(size);
    float rest = (size - whole) * 65536.0;
    uint high = (uint(whole) * 0x00010000u) + uint(floor(rest));
    uvec2 scaled = harbor_siding_fixed_scaled(a, high, uint((rest - floor(rest)) * 4294967296.0));
    if (x < 0.0) return harbor_siding_fixed_opposite(scaled);
    return scaled;
}

// 1 while a burst lasts, else 0; `x` is turns of the tables, of `whole` seconds each.
float harbor_siding_burst_level_of_bursts_on_bursts_off(uvec2 x, float whole, uint key, float on_lo,
    float on_hi, float off_lo, float off_hi, uint pairs) {
    uvec2 at = harbor_siding_fixed_sum(x, harbor_siding_cells_from(key));
    uint drawn = harbor_siding_draw(key, at.x);
    uint first = 2u * (drawn % pairs);
    float begun = harbor_siding_burst_edge_of_bursts_on_bursts_off(first, on_lo, on_hi, off_lo, off_hi);
    float passed = harbor_siding_fraction_of(at) * whole + begun;
    float u = passed >= whole ? passed - whole : passed;
    uint last = 0u;
    uint step_2 = pairs;
    while (step_2 > 0u) {
        if (u
            >= harbor_siding_burst_edge_of_bursts_on_bursts_off(last + step_2, on_lo, on_hi, off_lo,
                off_hi)) {
            last += step_2;
        }
        step_2 = step_2 / 2u;
    }
    return last % 2u == 0u ? 1.0 : 0.0;
}

// Behavior, a copy for each use -- stock:16: behavior failing_tube(rest = 7s, fault = 900ms, hum = 5%)
float harbor_siding_failing_tube(uvec2 t, uint key, float rest, float fault, float hum) {
    float out_2 = harbor_siding_burst_level_of_bursts_on_bursts_off(harbor_siding_fixed_times(t,
            1.0
                / harbor_siding_burst_edge_of_bursts_on_bursts_off(128u, fault / 9.0, fault, rest / 6.0,
                    rest)),
        harbor_siding_burst_edge_of_bursts_on_bursts_off(128u, fault / 9.0, fault, rest / 6.0, rest),
        harbor_siding_chance_key(key, 0x2f205108u), fault / 9.0, fault, rest / 6.0, rest, 64u);
    float flutter = 0.8
        * harbor_siding_held_level(harbor_siding_fixed_scaled(t, 0x0011642cu, 0x8590b217u),
            harbor_siding_chance_key(key, 0x496f9991u), 0.2826087);
    float burning = harbor_siding_lerp(1.0 - hum, 1.0,
        harbor_siding_held_level(harbor_siding_fixed_scaled(t, 0x00190000u, 0u),
            harbor_siding_chance_key(key, 0x7951a49fu), 0.25));
    return out_2 > 0.5 ? flutter * flutter : burning;
}

// Behavior, a copy for each use -- stock:25: behavior welding_arc(run = 2.6s, rest = 5s, sputter = 70%)
float harbor_siding_welding_arc(uvec2 t, uint key, float run, float rest, float sputter) {
    float arc = harbor_siding_burst_level_of_bursts_on_bursts_off(harbor_siding_fixed_scaled(t, 238u,
            0xd6f6ee5eu), 274.39325, harbor_siding_chance_key(key, 0xc79c0ddfu), run / 8.0, run, rest / 6.0,
        rest, 64u);
    return arc
        * harbor_siding_lerp(1.0 - sputter, 1.0,
            harbor_siding_held_level(harbor_siding_fixed_scaled(t, 0x00245d17u, 0x45d1745eu),
                harbor_siding_chance_key(key, 0xdd0f26bbu), 0.22727273));
}

// Position in a turn of `period` seconds that starts again with each whole number `x`.
float harbor_siding_wrap_time(uvec2 x, float period) {
    return harbor_siding_fraction_of(x) * period;
}

// Curve over x seconds
float harbor_siding_beacon_rhythm(float x) {
    if (x < 0.35) return 1.0;
    if (x < 1.2) return 0.0;
    if (x < 1.55) return 1.0;
    if (x < 6.0) return 0.0;
    return 1.0;
}

// Converts a number to fixed point.
uvec2 harbor_siding_fixed_of(float x) {
    float size = harbor_siding_min(harbor_siding_absolute(x), HARBOR_SIDING_LARGEST_FIXED);
    float whole = floor(size);
    uvec2 fixed_2 = uvec2(uint(whole), uint((size - whole) * 4294967296.0));
    if (x < 0.0) return harbor_siding_fixed_opposite(fixed_2);
    return fixed_2;
}

// Whether one fixed-point number is below another.
bool harbor_siding_fixed_below(uvec2 a, uvec2 b) {
    uvec2 apart = harbor_siding_fixed_difference(a, b);
    return (apart.x >> 31u) != 0u;
}

// A fixed-point number limited to `lo..hi`.
uvec2 harbor_siding_fixed_clamped(uvec2 a, uvec2 lo, uvec2 hi) {
    if (harbor_siding_fixed_below(a, lo)) return lo;
    if (harbor_siding_fixed_below(hi, a)) return hi;
    return a;
}

// The square root of `x`; 0 of what is below 0.
float harbor_siding_root(float x) {
    float kept = x > 0.0 ? x : 0.0;
    return sqrt(kept);
}

// Places from 0 to 1 drawn apart at both ends, so that what starts or ends like a root goes on evenly.
float harbor_siding_spread_ends(float u) {
    bool before = u < 0.5;
    float side = before ? u : 1.0 - u;
    float v = 0.5 * harbor_siding_root(2.0 * side);
    return before ? v : 1.0 - v;
}

// An easing at `u`, 0 to 1, that is kept as polynomials of the fifth degree: six numbers for each of `pieces`
// of one length, the highest power first.
float harbor_siding_ease_baked_of_ease_out_pieces(float u, uint pieces) {
    float x = u * float(pieces);
    uint cell = uint(x);
    uint piece = cell < pieces ? cell : pieces - 1u;
    float f = x - float(piece);
    uint at = 6u * piece;
    float s = harbor_siding_ease_out_pieces[at];
    s = s * f + harbor_siding_ease_out_pieces[at + 1u];
    s = s * f + harbor_siding_ease_out_pieces[at + 2u];
    s = s * f + harbor_siding_ease_out_pieces[at + 3u];
    s = s * f + harbor_siding_ease_out_pieces[at + 4u];
    return s * f + harbor_siding_ease_out_pieces[at + 5u];
}

// An easing at `u`, 0 to 1, that is kept as polynomials of the fifth degree: six numbers for each of `pieces`
// of one length, the highest power first.
float harbor_siding_ease_baked_of_ease_in_pieces(float u, uint pieces) {
    float x = u * float(pieces);
    uint cell = uint(x);
    uint piece = cell < pieces ? cell : pieces - 1u;
    float f = x - float(piece);
    uint at = 6u * piece;
    float s = harbor_siding_ease_in_pieces[at];
    s = s * f + harbor_siding_ease_in_pieces[at + 1u];
    s = s * f + harbor_siding_ease_in_pieces[at + 2u];
    s = s * f + harbor_siding_ease_in_pieces[at + 3u];
    s = s * f + harbor_siding_ease_in_pieces[at + 4u];
    return s * f + harbor_siding_ease_in_pieces[at + 5u];
}

// Curve over x seconds -- siding.caltrin:53: curve passing { 0s 15%; 300ms 100% ease-out; 1.4s 15% ease-in;
// 5.3s 15% }
float harbor_siding_passing(float x) {
    if (x < 0.3) {
        return harbor_siding_lerp(0.15, 1.0,
            harbor_siding_ease_baked_of_ease_out_pieces(harbor_siding_spread_ends(x / 0.3), 16u));
    }
    if (x < 1.4) {
        return harbor_siding_lerp(1.0, 0.15,
            harbor_siding_ease_baked_of_ease_in_pieces(harbor_siding_spread_ends((x - 0.3) / 1.1), 16u));
    }
    return 0.15;
}

// Behavior, a copy for each use -- stock:82: behavior water_caustics(depth = 75%, ripple = 0.9Hz)
float harbor_siding_water_caustics(uvec2 t, uint key, float depth) {
    float here = harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 58982u, 0x66666666u),
        harbor_siding_chance_key(key, 0x7b00126eu), 2u);
    float there = harbor_siding_drift_level(harbor_siding_fixed_scaled(t, 0x00013ba5u, 0xe353f7cfu),
        harbor_siding_chance_key(key, 0x426f75ddu), 2u);
    float close = harbor_siding_clamp(1.0 - harbor_siding_max(here - there, there - here), 0.0, 1.0);
    return 1.0 - depth + depth * close * close * close * close;
}

// Soft start and end, from 0 to 1.
float harbor_siding_ease_smooth(float u) {
    float s = u * u * (3.0 - 2.0 * u);
    return s > 1.0 ? 1.0 : s;
}

// As `held_level`, but each level is reached softly over a `part` of its cell.
float harbor_siding_soft_level(uvec2 x, uint key, float jitter, float part) {
    uvec2 middle = uvec2(0u, 0x80000000u);
    uvec2 near_2 = harbor_siding_fixed_sum(harbor_siding_fixed_sum(x, harbor_siding_cells_from(key)), middle);
    uint nearest = near_2.x;
    float off = harbor_siding_fraction_of(near_2) - 0.5;
    float since_nearest = off - harbor_siding_cell_edge(key, nearest, jitter);
    uint i = since_nearest >= 0.0 ? nearest : nearest - 1u;
    float edge = harbor_siding_cell_edge(key, i, jitter);
    float passed = since_nearest >= 0.0 ? since_nearest : off + 1.0 - edge;
    float soft = part * (1.0 + harbor_siding_cell_edge(key, i + 1u, jitter) - edge);
    float to = harbor_siding_to_unit(harbor_siding_draw(key ^ HARBOR_SIDING_LEVELS, i));
    float from = harbor_siding_to_unit(harbor_siding_draw(key ^ HARBOR_SIDING_LEVELS, i - 1u));
    if (passed >= soft) return to;
    return from + (to - from) * harbor_siding_ease_smooth(passed / soft);
}

// What is the same for all lamps in a frame.
struct HarborSidingFrame {
    uint seconds; // Time of the run: whole seconds.
    uint fraction; // Time of the run: the rest, in 2^-32 s.
    uint seed; // The run's seed.
};

// A lamp of 40, index 0 to 39: area -- siding.caltrin:12: light window[40] area
struct HarborSidingWindow {
    float intensity; // cd
    vec3 color; // linear Rec. 709
    vec3 position; // m
};

HarborSidingWindow harbor_siding_window(HarborSidingFrame frame, uint index) {
    HarborSidingWindow lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    uint intensity_key = harbor_siding_chance_key(frame.seed, 0x3d181becu);
    uint intensity_key_2 = harbor_siding_chance_key(frame.seed, 0xc63de57au);
    uint intensity_key_3 = harbor_siding_chance_key(frame.seed, 0x80b27f30u);
    uint intensity_key_4 = harbor_siding_chance_key(frame.seed, 0x6afaa064u);
    uint intensity_key_5 = harbor_siding_chance_key(frame.seed, 0x921d5f54u);
    bool awake = harbor_siding_chance_phase(harbor_siding_lamp_key(intensity_key, index)) > 0.55;
    bool screen = harbor_siding_chance_phase(harbor_siding_lamp_key(intensity_key_2, index)) > 0.7;
    float intensity_time = harbor_siding_chance_phase(harbor_siding_lamp_key(intensity_key_5, index));
    bool intensity_if = 0.33333334 > intensity_time;
    float color_now_r = screen
        ? harbor_siding_television_tint_r(t, harbor_siding_lamp_key(intensity_key_4, index), 3.4)
        : 1.0;
    bool intensity_if_2 = 0.6666667 > intensity_time;
    float color_now_g = screen
        ? harbor_siding_television_tint_g(t, harbor_siding_lamp_key(intensity_key_4, index), 3.4)
        : intensity_if
        ? 0.32711267
        : intensity_if_2
        ? 0.41525516
        : 0.476738;
    float color_now_b = screen
        ? harbor_siding_television_tint_b(t, harbor_siding_lamp_key(intensity_key_4, index), 3.4)
        : intensity_if
        ? 0.04012453
        : intensity_if_2
        ? 0.099098265
        : 0.1536071;
    float brightest = harbor_siding_max(harbor_siding_max(color_now_r, color_now_g), color_now_b);
    lamp.intensity = 40.0
        * (awake
            ? (screen
                ? harbor_siding_television_glow(t, harbor_siding_lamp_key(intensity_key_3, index), 3.4, 0.65)
                : 1.0)
            : 0.02)
        * brightest;
    lamp.color.r = harbor_siding_share(color_now_r, brightest);
    lamp.color.g = harbor_siding_share(color_now_g, brightest);
    lamp.color.b = harbor_siding_share(color_now_b, brightest);
    lamp.position.x = 1.6 * float(index);
    lamp.position.y = 2.0999999046325684;
    lamp.position.z = 0.0;
    return lamp;
}

// A lamp of 6, index 0 to 5: point -- siding.caltrin:23: light glow point { color 2300K; reach 8m; intensity
// strength * 55% }
struct HarborSidingRampGlow {
    float intensity; // lm
    vec3 color; // linear Rec. 709
    float reach_outer; // m, no light from this distance on
    vec3 position; // m
};

HarborSidingRampGlow harbor_siding_ramp_glow(HarborSidingFrame frame, uint index) {
    HarborSidingRampGlow lamp;
    float strength = float(index) == 4.0 ? 120.0 : 650.0;
    lamp.intensity = strength * 0.55;
    lamp.color.r = 1.0;
    lamp.color.g = 0.32711267471313477;
    lamp.color.b = 0.04012453183531761;
    lamp.reach_outer = 8.0;
    lamp.position.x = 2.0 + 11.0 * float(index);
    lamp.position.y = 3.0;
    lamp.position.z = 4.0;
    return lamp;
}

// A lamp of 6, index 0 to 5: point -- siding.caltrin:24: light core point { color 2300K; reach 8m; intensity
// strength * flame; offset flame_sway(1cm) to 1...
struct HarborSidingRampCore {
    float intensity; // lm
    vec3 color; // linear Rec. 709
    float reach_outer; // m, no light from this distance on
    vec3 position; // m
    vec3 offset; // m, added to the position
};

HarborSidingRampCore harbor_siding_ramp_core(HarborSidingFrame frame, uint index) {
    HarborSidingRampCore lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    uint intensity_key = harbor_siding_chance_key(frame.seed, 0x87fe4e32u);
    uint offset_key = harbor_siding_chance_key(frame.seed, 0xe8bad9ccu);
    float strength = float(index) == 4.0 ? 120.0 : 650.0;
    float flame = harbor_siding_gas_mantle(t, harbor_siding_lamp_key(intensity_key, index), 0.14, 0.04);
    uint key = harbor_siding_lamp_key(offset_key, index);
    lamp.intensity = strength * flame;
    lamp.color.r = 1.0;
    lamp.color.g = 0.32711267471313477;
    lamp.color.b = 0.04012453183531761;
    lamp.reach_outer = 8.0;
    lamp.position.x = 2.0 + 11.0 * float(index);
    lamp.position.y = 3.0;
    lamp.position.z = 4.0;
    lamp.offset.x = harbor_siding_flame_sway_x(t, key, 0.01);
    lamp.offset.y = harbor_siding_flame_sway_y(t, key, 0.01);
    lamp.offset.z = harbor_siding_flame_sway_z(t, key, 0.01);
    return lamp;
}

// A lamp of 5, index 0 to 4: area -- siding.caltrin:31: light platform_tube[5] area
struct HarborSidingPlatformTube {
    float intensity; // cd
    vec3 color; // linear Rec. 709
    vec3 position; // m
};

HarborSidingPlatformTube harbor_siding_platform_tube(HarborSidingFrame frame, uint index) {
    HarborSidingPlatformTube lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    uint intensity_key = harbor_siding_chance_key(frame.seed, 0xcc5e7ca7u);
    uint intensity_key_2 = harbor_siding_chance_key(frame.seed, 0x79acbc1bu);
    lamp.intensity = float(index) == 1.0
        ? 110.0 * harbor_siding_failing_tube(t, harbor_siding_lamp_key(intensity_key, index), 3.0, 1.4, 0.05)
        : 110.0
            * harbor_siding_failing_tube(t, harbor_siding_lamp_key(intensity_key_2, index), 12.0, 0.9, 0.05);
    lamp.color.r = 0.8069522380828857;
    lamp.color.g = 0.8879231214523315;
    lamp.color.b = 1.0;
    lamp.position.x = 6.0 + 12.0 * float(index);
    lamp.position.y = 4.0;
    lamp.position.z = 2.0;
    return lamp;
}

// A lamp: point -- siding.caltrin:38: light workshop point
struct HarborSidingWorkshop {
    float intensity; // lm
    vec3 color; // linear Rec. 709
    vec3 position; // m
    bool shadows; // whether the lamp casts shadows
};

HarborSidingWorkshop harbor_siding_workshop(HarborSidingFrame frame) {
    HarborSidingWorkshop lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    lamp.intensity = 18000.0
        * harbor_siding_welding_arc(t, harbor_siding_chance_key(frame.seed, 0x836f081du), 2.6, 5.0, 0.7);
    lamp.color.r = 0.6389992237091064;
    lamp.color.g = 0.7163724899291992;
    lamp.color.b = 1.0;
    lamp.position.x = 70.0;
    lamp.position.y = 1.399999976158142;
    lamp.position.z = -6.0;
    lamp.shadows = true;
    return lamp;
}

// A lamp: point -- siding.caltrin:46: light beacon point
struct HarborSidingBeacon {
    float intensity; // cd
    vec3 color; // linear Rec. 709
    vec3 position; // m
};

HarborSidingBeacon harbor_siding_beacon(HarborSidingFrame frame) {
    HarborSidingBeacon lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    lamp.intensity = 2400.0
        * harbor_siding_beacon_rhythm(harbor_siding_wrap_time(harbor_siding_fixed_scaled(t, 10922u,
                    0xaaaaaaabu), 6.0));
    lamp.color.r = 0.33716362714767456;
    lamp.color.g = 1.0;
    lamp.color.b = 0.43415364623069763;
    lamp.position.x = 95.0;
    lamp.position.y = 11.0;
    lamp.position.z = 30.0;
    return lamp;
}

// A lamp of 9, index 0 to 8: point -- siding.caltrin:54: light mole[9] point
struct HarborSidingMole {
    float intensity; // cd
    vec3 color; // linear Rec. 709
    float reach_outer; // m, no light from this distance on
    vec3 position; // m
};

HarborSidingMole harbor_siding_mole(HarborSidingFrame frame, uint index) {
    HarborSidingMole lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    uvec2 then = harbor_siding_fixed_clamped(harbor_siding_fixed_difference(t,
            harbor_siding_fixed_of(0.18 * float(index))), uvec2(0xc4653600u, 0u), uvec2(0x3b9aca00u, 0u));
    lamp.intensity = 30.0
        * harbor_siding_passing(harbor_siding_wrap_time(harbor_siding_fixed_scaled(then, 12365u, 0x4873ecaeu),
                5.3));
    lamp.color.r = 1.0;
    lamp.color.g = 0.26864635944366455;
    lamp.color.b = 0.012651546858251095;
    lamp.reach_outer = 3.0;
    lamp.position.x = 72.0 + 2.5 * float(index);
    lamp.position.y = 1.0;
    lamp.position.z = 12.0 + 2.0 * float(index);
    return lamp;
}

// A lamp: spot -- siding.caltrin:61: light ripples spot
struct HarborSidingRipples {
    float intensity; // cd
    vec3 color; // linear Rec. 709
    float cone_inner; // degrees, full angle, full light inside
    float cone_outer; // degrees, full angle, none from here on
    vec3 position; // m
    vec3 aim; // direction, of length 1
};

HarborSidingRipples harbor_siding_ripples(HarborSidingFrame frame) {
    HarborSidingRipples lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    lamp.intensity = 25.0
        * harbor_siding_water_caustics(t, harbor_siding_chance_key(frame.seed, 0x30e9593cu), 0.75)
        * 0.6866853;
    lamp.color.r = 0.5702357292175293;
    lamp.color.g = 1.0;
    lamp.color.b = 0.9185534715652466;
    lamp.cone_inner = 40.0;
    lamp.cone_outer = 80.0;
    lamp.position.x = 60.0;
    lamp.position.y = -0.5;
    lamp.position.z = 14.0;
    lamp.aim.x = 0.0;
    lamp.aim.y = 1.0;
    lamp.aim.z = 0.0;
    return lamp;
}

// A lamp: ambient -- siding.caltrin:69: light night ambient { color #1c2636; intensity 0.6lx }
struct HarborSidingNight {
    float intensity; // lx
    vec3 color; // linear Rec. 709
};

HarborSidingNight harbor_siding_night(HarborSidingFrame frame) {
    HarborSidingNight lamp;
    lamp.intensity = 0.6000000238418579;
    lamp.color.r = 0.011612244881689548;
    lamp.color.g = 0.019382361322641373;
    lamp.color.b = 0.03688944876194;
    return lamp;
}

// An output of 120, index 0 to 119 -- siding.caltrin:71: output harbor_stars[120]
struct HarborSidingHarborStars {
    float level; // number
    vec3 tint; // linear Rec. 709
};

HarborSidingHarborStars harbor_siding_harbor_stars(HarborSidingFrame frame, uint index) {
    HarborSidingHarborStars lamp;
    uvec2 t = uvec2(frame.seconds, frame.fraction);
    uint level_key = harbor_siding_chance_key(frame.seed, 0x5b64fe41u);
    uint tint_key = harbor_siding_chance_key(frame.seed, 0x72fb966du);
    float tint_time = harbor_siding_chance_phase(harbor_siding_lamp_key(tint_key, index));
    bool tint_if = 0.33333334 > tint_time;
    bool tint_if_2 = 0.6666667 > tint_time;
    lamp.level = 0.3
        + 0.7
            * harbor_siding_soft_level(harbor_siding_fixed_scaled(t, 0x00015555u, 0x55555555u),
                harbor_siding_lamp_key(level_key, index), 0.3, 0.5);
    lamp.tint.r = tint_if ? 1.0 : tint_if_2 ? 1.0 : 0.47932017;
    lamp.tint.g = tint_if ? 0.69387174 : tint_if_2 ? 1.0 : 0.60382736;
    lamp.tint.b = tint_if ? 0.43415365 : 1.0;
    return lamp;
}
