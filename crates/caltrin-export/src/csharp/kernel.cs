using System;

internal static class Kernel
{
    //: scramble
    /// <summary>Mixes 32 bits; one-to-one.</summary>
    static uint Scramble(uint x)
    {
        unchecked
        {
            x ^= x >> 16;
            x *= 0x21f0aaadu;
            x ^= x >> 15;
            x *= 0x735a2d97u;
            return x ^ (x >> 15);
        }
    }

    //: chance_key
    /// <summary>The key of one place of chance under a seed, or under another key.</summary>
    static uint ChanceKey(uint seed, uint place)
    {
        unchecked
        {
            return Scramble((Scramble(seed + 0x9e3779b9u) ^ place) + 0x85ebca6bu);
        }
    }

    //: lamp_key
    /// <summary>The key of one lamp of an array; lamp 0 keeps the key.</summary>
    static uint LampKey(uint key, uint index)
    {
        return key ^ Scramble(index);
    }

    //: draw
    /// <summary>The n-th draw of a key.</summary>
    static uint Draw(uint key, uint n)
    {
        unchecked
        {
            return Scramble(Scramble(n + key) ^ key);
        }
    }

    //: to_unit
    /// <summary>0..1, 1 excluded, in steps of 2^-24.</summary>
    static double ToUnit(uint bits)
    {
        return (double)(bits >> 8) * (1.0 / 16777216.0);
    }

    //: round_down
    static double RoundDown(double x)
    {
        return Math.Floor(x);
    }

    //: cell_index
    /// <summary>A whole number as a wrapping 32-bit index.</summary>
    static uint CellIndex(double n)
    {
        return unchecked((uint)(long)n);
    }

    //: chance_phase
    /// <summary>Where a chance begins along its own cells, 0..1.</summary>
    static double ChancePhase(uint key)
    {
        unchecked
        {
            return ToUnit(Scramble(key + 0x9e3779b9u));
        }
    }

    //: within
    static double Within(double v, double lo, double hi)
    {
        v = v < lo ? lo : v;
        return v > hi ? hi : v;
    }

    //: between
    /// <summary>lo at 0, hi at 1, never outside of the two.</summary>
    static double Between(double lo, double hi, double s)
    {
        double v = lo + (hi - lo) * s;
        return lo <= hi ? Within(v, lo, hi) : Within(v, hi, lo);
    }

    //: least
    static double Least(double a, double b)
    {
        return b < a ? b : a;
    }

    //: greatest
    static double Greatest(double a, double b)
    {
        return b > a ? b : a;
    }

    //: share
    static double Share(double part, double whole)
    {
        return whole > 0.0 ? part / whole : 0.0;
    }

    //: held_level
    /// <summary>A level 0..1 drawn again after random times between a and b seconds:
    /// rate = 2 / (a + b), jitter = (b - a) / (2 (a + b)).</summary>
    static double HeldLevel(double t, uint key, double rate, double jitter)
    {
        unchecked
        {
            double x = t * rate + ChancePhase(key);
            double n = RoundDown(x + 0.5);
            uint i = CellIndex(n);
            uint h = Draw(key, i);
            double drawn = jitter * (2.0 * ToUnit(h) - 1.0);
            double steady = h >> 31 != 0 ? jitter : -jitter;
            double edge = (i & 1u) != 0 ? steady : drawn;
            uint cell = x - n >= edge ? i : i - 1u;
            return ToUnit(Draw(key ^ 0x68e31da4u, cell));
        }
    }

    //: ease_smooth
    static double EaseSmooth(double u)
    {
        double s = u * u * (3.0 - 2.0 * u);
        return s > 1.0 ? 1.0 : s;
    }

    //: ease_bezier
    /// <summary>CSS cubic-bezier(x1, y1, x2, y2) at u: Laguerre's method inside a bracket.</summary>
    static double EaseBezier(double u, double x1, double y1, double x2, double y2)
    {
        double cx = 3.0 * x1, bx = 3.0 * (x2 - x1) - cx, ax = 1.0 - cx - bx;
        double cy = 3.0 * y1, by = 3.0 * (y2 - y1) - cy, ay = 1.0 - cy - by;
        double lo = 0.0, hi = 1.0, s = u;
        if (u <= 0.0) return 0.0;
        if (u >= 1.0) return 1.0;
        for (int step = 0; step < 8; ++step)
        {
            double e = ((ax * s + bx) * s + cx) * s - u;
            if (e == 0.0) break;
            if (e < 0.0) lo = s; else hi = s;
            double d = (3.0 * ax * s + 2.0 * bx) * s + cx;
            double q = 4.0 * d * d - 6.0 * e * (6.0 * ax * s + 2.0 * bx);
            double w = s - 3.0 * e / (d + Math.Sqrt(q > 0.0 ? q : 0.0));
            s = lo <= w && w <= hi ? w : 0.5 * (lo + hi);
        }
        return ((ay * s + by) * s + cy) * s;
    }

    //: wrap_time
    /// <summary>Where t stands in a turn that starts again and again.</summary>
    static double WrapTime(double t, double period)
    {
        double x = t - RoundDown(t / period) * period;
        if (x < 0.0) return x + period;
        return x >= period ? x - period : x;
    }

    //: fold_time
    /// <summary>Where t stands in a turn that plays there and back.</summary>
    static double FoldTime(double t, double period)
    {
        double x = WrapTime(t, 2.0 * period);
        return x > period ? 2.0 * period - x : x;
    }

    //: clean_moment
    /// <summary>Not-a-number is 0; nothing lies beyond 1e9 s.</summary>
    static double CleanMoment(double t)
    {
        if (!(t < -1e-30 || t > 1e-30)) return 0.0;
        return Within(t, -1e9, 1e9);
    }

    //: to_single
    /// <summary>No negative zero, no subnormal.</summary>
    static float ToSingle(double v)
    {
        return (float)(v < 1e-30 && v > -1e-30 ? 0.0 : v);
    }

    //: to_output
    /// <summary>No negative zero, no subnormal, no infinity.</summary>
    static float ToOutput(double v)
    {
        v = v < 1e-30 && v > -1e-30 ? 0.0 : v;
        return (float)Within(v, -3.4028234663852886e38, 3.4028234663852886e38);
    }
    //: end
}
