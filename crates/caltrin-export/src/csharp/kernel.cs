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

    //: clamp
    static double Clamp(double v, double lo, double hi)
    {
        v = v < lo ? lo : v;
        return v > hi ? hi : v;
    }

    //: lerp
    /// <summary>lo at 0, hi at 1, never outside of the two.</summary>
    static double Lerp(double lo, double hi, double s)
    {
        double v = lo + (hi - lo) * s;
        return lo <= hi ? Clamp(v, lo, hi) : Clamp(v, hi, lo);
    }

    //: min
    static double Min(double a, double b)
    {
        return b < a ? b : a;
    }

    //: max
    static double Max(double a, double b)
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

    //: ease_steps
    /// <summary>CSS steps() at u: the number of steps, the jumps before the first of them, and all jumps.</summary>
    static double EaseSteps(double u, double steps, double first, double jumps)
    {
        double s = (RoundDown(u * steps) + first) / jumps;
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

    //: noise
    /// <summary>Passes smoothly through draws at whole numbers x, 0..1.</summary>
    static double Noise(double x, uint key)
    {
        unchecked
        {
            double n = RoundDown(x), f = x - n;
            uint i = CellIndex(n);
            double eased = f * f * f * (f * (6.0 * f - 15.0) + 10.0);
            double s = eased > 1.0 ? 1.0 : eased;
            double a = ToUnit(Draw(key, i));
            double b = ToUnit(Draw(key, i + 1u));
            return a + (b - a) * s;
        }
    }

    //: drift_level
    /// <summary>Drifts smoothly in 0..1, `rate` draws a second, and as many octaves.</summary>
    static double DriftLevel(double t, uint key, double rate, uint octaves)
    {
        unchecked
        {
            double x = t * rate + ChancePhase(key);
            double sum = Noise(x, key), total = 1.0;
            for (uint octave = 1u; octave < octaves; ++octave)
            {
                x = 2.0 * x + 0.37;
                key += 0x9e3779b9u;
                sum = 2.0 * sum + Noise(x, key);
                total = 2.0 * total + 1.0;
            }
            return sum / total;
        }
    }

    //: cell_edge
    /// <summary>Where cell i of a held level begins, from i.</summary>
    static double CellEdge(uint key, uint i, double jitter)
    {
        uint h = Draw(key, i);
        double drawn = jitter * (2.0 * ToUnit(h) - 1.0);
        double steady = h >> 31 != 0 ? jitter : -jitter;
        return (i & 1u) != 0 ? steady : drawn;
    }

    //: soft_level
    /// <summary>A held level, each reached softly over a part of its time.</summary>
    static double SoftLevel(double t, uint key, double rate, double jitter, double part)
    {
        unchecked
        {
            double x = t * rate + ChancePhase(key);
            double n = RoundDown(x + 0.5);
            uint nearCell = CellIndex(n);
            double pastNear = x - n - CellEdge(key, nearCell, jitter);
            uint i = pastNear >= 0.0 ? nearCell : nearCell - 1u;
            double edge = CellEdge(key, i, jitter);
            double passed = pastNear >= 0.0 ? pastNear : x - n + 1.0 - edge;
            double soft = part * (1.0 + CellEdge(key, i + 1u, jitter) - edge);
            double to = ToUnit(Draw(key ^ 0x68e31da4u, i));
            if (passed >= soft) return to;
            double from = ToUnit(Draw(key ^ 0x68e31da4u, i - 1u));
            return from + (to - from) * EaseSmooth(passed / soft);
        }
    }

    //: burst_level
    /// <summary>1 while a burst lasts, else 0. The sums are running sums of even draws, pairs + 1 of each.</summary>
    static double BurstLevel(double t, uint key, double onLo, double onHi, double offLo, double offHi,
        double[] onSums, double[] offSums, uint pairs)
    {
        double whole = BurstEdge(2u * pairs, onLo, onHi, offLo, offHi, onSums, offSums);
        double x = t / whole + ChancePhase(key);
        double n = RoundDown(x);
        uint first = Draw(key, CellIndex(n)) % pairs;
        double u = (x - n) * whole + BurstEdge(2u * first, onLo, onHi, offLo, offHi, onSums, offSums);
        u = u >= whole ? u - whole : u;
        uint last = 0u;
        for (uint step = pairs; step > 0u; step /= 2u)
        {
            if (u >= BurstEdge(last + step, onLo, onHi, offLo, offHi, onSums, offSums)) last += step;
        }
        return last % 2u == 0u ? 1.0 : 0.0;
    }

    static double BurstEdge(uint n, double onLo, double onHi, double offLo, double offHi,
        double[] onSums, double[] offSums)
    {
        uint begun = (n + 1u) / 2u, ended = n / 2u;
        return onLo * (double)begun + (onHi - onLo) * onSums[begun]
            + (offLo * (double)ended + (offHi - offLo) * offSums[ended]);
    }

    //: table_level
    /// <summary>A table's value at place x, straight between its entries 0 to `last`.</summary>
    static double TableLevel(double x, double[] table, uint last)
    {
        double kept = Clamp(x, 0.0, (double)last);
        uint cell = (uint)RoundDown(kept);
        uint i = cell < last ? cell : last - 1u;
        return Lerp(table[i], table[i + 1u], kept - (double)i);
    }

    //: envelope_level
    /// <summary>The level, 0 to 1, at place x of an envelope with entries 0 to `last`: straight lines between places
    /// (the upper 24 bits) and levels in parts of 255 (the lower 8).</summary>
    static double EnvelopeLevel(double x, uint[] envelope, uint last)
    {
        uint low = 0u, high = last;
        while (high - low > 1u)
        {
            uint middle = (low + high) / 2u;
            if ((double)(envelope[middle] >> 8) <= x)
                low = middle;
            else
                high = middle;
        }
        double from = (double)(envelope[low] >> 8), to = (double)(envelope[high] >> 8);
        double a = (double)(envelope[low] & 255u), b = (double)(envelope[high] & 255u);
        return Lerp(a, b, Clamp((x - from) / (to - from), 0.0, 1.0)) / 255.0;
    }

    //: next_place
    /// <summary>The first of the rising places 0 to `last` that lies after x; 2e9, which no moment reaches, if there
    /// is none.</summary>
    static double NextPlace(double x, double[] places, uint last)
    {
        uint low = 0u, high = last + 1u;
        while (low < high)
        {
            uint middle = (low + high) / 2u;
            if (places[middle] > x)
                high = middle;
            else
                low = middle + 1u;
        }
        return low <= last ? places[low] : 2e9;
    }

    //: in_ball
    /// <summary>One part of a displacement in a ball of radius 1, from three numbers in -1..1.</summary>
    static double InBall(double a, double b, double c)
    {
        double bb = b * b, cc = c * c;
        return a * Math.Sqrt(1.0 - 0.5 * bb - 0.5 * cc + bb * cc * (1.0 / 3.0)) * 0.9999997615814209;
    }

    //: heading
    /// <summary>One part of a direction of length 1; `still` where there is none.</summary>
    static double Heading(double part, double x, double y, double z, double still)
    {
        double length = Math.Sqrt(x * x + y * y + z * z);
        return length > 1e-9 ? part / length : still;
    }

    //: sine_of_turns
    static double SineOfTurns(double x)
    {
        double nearTurn = x - RoundDown(x + 0.5);
        double upper = nearTurn > 0.25 ? 0.5 - nearTurn : nearTurn;
        double r = upper < -0.25 ? -0.5 - upper : upper;
        double q = r * r;
        double high = 42.057963877218654 + q * (-15.079294941101859 + q * 3.655084043208931);
        double low = 81.60524903205786 + q * (-76.70584112984776 + q * high);
        return Clamp(r * (6.283185307177229 + q * (-41.34170223898956 + q * low)), -1.0, 1.0);
    }

    //: sine_level
    /// <summary>A wave 0..1, lowest at whole turns x.</summary>
    static double SineLevel(double x)
    {
        return 0.5 + 0.5 * SineOfTurns(x - 0.25);
    }

    //: triangle_level
    static double TriangleLevel(double x)
    {
        double r = x - RoundDown(x);
        return r < 0.5 ? 2.0 * r : 2.0 - 2.0 * r;
    }

    //: saw_level
    static double SawLevel(double x)
    {
        return x - RoundDown(x);
    }

    //: square_level
    static double SquareLevel(double x, double on)
    {
        return x - RoundDown(x) < on ? 1.0 : 0.0;
    }

    //: days_of
    /// <summary>Whole days in a number of hours.</summary>
    static double DaysOf(double hours)
    {
        return RoundDown(hours / 24.0);
    }

    //: hour_of
    /// <summary>The hour of the day, 24 excluded, after a number of hours from midnight on.</summary>
    static double HourOf(double hours)
    {
        return Clamp(hours - 24.0 * DaysOf(hours), 0.0, 23.999999999999996);
    }

    //: hours_level
    /// <summary>0 outside and 1 inside of a span of hours: opens from start on, closes from end on.</summary>
    static double HoursLevel(double hour, double start, double rise, double end, double fall)
    {
        double passed = HourOf(hour - start);
        double open = HourOf(end - start);
        double late = passed < open ? passed - open + 24.0 : passed - open;
        double left = 0.0;
        if (late < fall) left = 1.0 - late / fall;
        if (passed >= rise) return passed < open ? 1.0 : left;
        double up = passed / rise;
        if (passed >= open) return up > 1.0 - left ? up - (1.0 - left) : 0.0;
        double level = up + left;
        return level < 1.0 ? level : 1.0;
    }

    //: through_level
    /// <summary>How far the time from one hour to another has passed, 0..1.</summary>
    static double ThroughLevel(double hour, double start, double end)
    {
        double passed = HourOf(hour - start);
        double open = HourOf(end - start);
        if (passed < open) return passed / open;
        return passed - open < (24.0 - open) * 0.5 ? 1.0 : 0.0;
    }

    //: arc_tangent
    /// <summary>The angle of the point (x, y), in degrees.</summary>
    static double ArcTangent(double y, double x)
    {
        double ax = x < 0.0 ? -x : x;
        double ay = y < 0.0 ? -y : y;
        bool steep = ay > ax;
        double small = steep ? ax : ay;
        double large = steep ? ay : ax;
        if (large == 0.0) return 0.0;
        double ratio = small / large;
        bool far = ratio > 0.414213562373095;
        double z = far ? (ratio - 1.0) / (ratio + 1.0) : ratio;
        double u = z * z;
        double a = 2.878903358695536 + u * -1.4504271731546372;
        double b = 4.396608313130339 + u * (-3.7276314185814425 + u * a);
        double c = 6.366162033833398 + u * (-5.207916699371338 + u * b);
        double d = 11.459155890227322 + u * (-8.185110427923698 + u * c);
        double p = 57.295779513082266 + u * (-19.098593170963273 + u * d);
        double part = far ? 45.0 + z * p : z * p;
        double half = steep ? 90.0 - part : part;
        double angle = x < 0.0 ? 180.0 - half : half;
        return y < 0.0 ? -angle : angle;
    }

    //: arc_sine
    /// <summary>The angle of a sine, -90..90 degrees.</summary>
    static double ArcSine(double x)
    {
        double kept = Clamp(x, -1.0, 1.0);
        return ArcTangent(kept, Math.Sqrt((1.0 - kept) * (1.0 + kept)));
    }

    //: compass
    /// <summary>A direction on the compass, 0..360 degrees from north over east.</summary>
    static double Compass(double east, double north)
    {
        double angle = ArcTangent(east, north);
        return angle < 0.0 ? angle + 360.0 : angle;
    }

    //: sun_way
    /// <summary>Turns of the sun on its way through the year, days after noon of 1 January 2000 in UT.</summary>
    static double SunWay(double days)
    {
        double anomaly = 0.9931333333333333 + days * 0.002737778611111111;
        double mean = 0.7790555555555555 + days * 0.0027379093333333333;
        double ahead = SineOfTurns(anomaly) * 0.005319444444444444;
        return mean + ahead + SineOfTurns(anomaly + anomaly) * 0.00005555555555555556;
    }

    //: axis_tilt
    /// <summary>How far the axis of the earth leans, in turns.</summary>
    static double AxisTilt(double days)
    {
        return 0.06510833333333333 - days * 0.000000001111111111;
    }

    //: sky_turn
    /// <summary>How far the sky has turned over a longitude, in turns.</summary>
    static double SkyTurn(double days, double longitude)
    {
        return 0.77905727325 + days * 1.002737909350795 + longitude / 360.0;
    }

    //: sky_part
    /// <summary>East (0), up (1) or south (2) of the direction to the sun, or to what runs ahead of it (Michalsky 1988).</summary>
    static double SkyPart(double part, double days, double ahead, double latitude, double longitude)
    {
        double way = SunWay(days) + ahead;
        double tilt = AxisTilt(days);
        double across = SineOfTurns(way);
        double x = SineOfTurns(way + 0.25);
        double y = SineOfTurns(tilt + 0.25) * across;
        double z = SineOfTurns(tilt) * across;
        double sky = SkyTurn(days, longitude);
        double sine = SineOfTurns(sky);
        double cosine = SineOfTurns(sky + 0.25);
        if (part == 0.0) return Clamp(y * cosine - x * sine, -1.0, 1.0);
        double meridian = x * cosine + y * sine;
        double low = SineOfTurns(latitude / 360.0);
        double high = SineOfTurns(latitude / 360.0 + 0.25);
        double toward = part == 1.0 ? low * z + high * meridian : low * meridian - high * z;
        return Clamp(toward, -1.0, 1.0);
    }

    //: sun_hour
    /// <summary>The hour at which the sun passes a height, by its sine: rising (-1), highest (0), setting (1).</summary>
    static double SunHour(double side, double days, double latitude, double longitude, double sine)
    {
        double low = SineOfTurns(latitude / 360.0);
        double high = SineOfTurns(latitude / 360.0 + 0.25);
        double hour = 12.0;
        double aim = 0.0;
        for (int pass = 0; pass < 4; ++pass) {
            double now = days + hour / 24.0;
            double way = SunWay(now);
            double tilt = AxisTilt(now);
            double across = SineOfTurns(way);
            double x = SineOfTurns(way + 0.25);
            double y = SineOfTurns(tilt + 0.25) * across;
            double z = SineOfTurns(tilt) * across;
            double left = aim - (SkyTurn(now, longitude) - ArcTangent(y, x) / 360.0);
            double flat = Math.Sqrt((1.0 - z) * (1.0 + z));
            double cosine = high * flat > 1e-12 ? high * flat : 1e-12;
            double share = Clamp((sine - low * z) / cosine, -1.0, 1.0);
            hour = hour + 24.0 * (left - RoundDown(left + 0.5));
            aim = side * (0.25 - ArcSine(share) / 360.0);
        }
        return HourOf(hour);
    }

    //: sun_stays
    /// <summary>Whether the sun stays below (-1) or above (1) a height on a day, by its sine.</summary>
    static double SunStays(double days, double latitude, double longitude, double sine)
    {
        double noon = SunHour(0.0, days, latitude, longitude, sine);
        double low = SineOfTurns(latitude / 360.0);
        double high = SineOfTurns(latitude / 360.0 + 0.25);
        double stays = 0.0;
        for (double side = -1.0; side < 2.0; side += 2.0) {
            double hour = SunHour(side, days, latitude, longitude, sine);
            double after = HourOf(side * (hour - noon));
            double apart = after > 18.0 ? after - 24.0 : after;
            double now = days + (noon + side * apart) / 24.0;
            double z = SineOfTurns(AxisTilt(now)) * SineOfTurns(SunWay(now));
            double flat = Math.Sqrt((1.0 - z) * (1.0 + z));
            double cosine = high * flat > 1e-12 ? high * flat : 1e-12;
            double share = (sine - low * z) / cosine;
            if (share > 0.9999) stays -= 1.0;
            else if (share < -0.9999) stays += 1.0;
        }
        return stays * 0.5;
    }

    //: root
    static double Root(double x)
    {
        return Math.Sqrt(x > 0.0 ? x : 0.0);
    }

    //: decay
    /// <summary>What is left of what falls to 1/e of itself again and again, after x such times.</summary>
    static double Decay(double x)
    {
        if (!(x > 0.0)) return 1.0;
        if (x >= 700.0) return 0.0;
        double twos = x * 1.4426950408889634;
        double whole = RoundDown(twos + 0.5);
        double f = whole - twos;
        double p = 1.021147686687256e-07;
        p = p * f + 1.325964614231444e-06;
        p = p * f + 1.5252641585726547e-05;
        p = p * f + 0.000154034337467768;
        p = p * f + 0.0013333558259554714;
        p = p * f + 0.009618129193941272;
        p = p * f + 0.05550410866424362;
        p = p * f + 0.24022650695640305;
        p = p * f + 0.6931471805599538;
        p = p * f + 1.0000000000000135;
        double half = 0.5;
        for (uint left = (uint)whole; left > 0u; left >>= 1)
        {
            if ((left & 1u) == 1u) p *= half;
            half *= half;
        }
        return p < 1.0 ? p : 1.0;
    }

    //: next_look
    /// <summary>The first whole number of 1/120 s after a moment.</summary>
    static double NextLook(double t)
    {
        double n = RoundDown(t * 120.0) + 1.0;
        double look = n / 120.0;
        return look > t ? look : (n + 1.0) / 120.0;
    }

    //: cube_root
    static double CubeRoot(double x)
    {
        double scale = 1.0;
        if (x < 1e-30) return 0.0;
        while (x >= 1.0) { x *= 0.125; scale *= 2.0; }
        while (x < 0.125) { x *= 8.0; scale *= 0.5; }
        double y = 0.3812513196434336 + x * (1.0723022680799823 - 0.46946113360511893 * x);
        for (int step = 0; step < 2; ++step)
        {
            double c = y * y * y;
            y = y * (c + 2.0 * x) / (2.0 * c + x);
        }
        return y * scale;
    }

    //: cone_l
    /// <summary>The root of the long cones' response to linear light, as in OKLab.</summary>
    static double ConeL(double r, double g, double b)
    {
        return CubeRoot(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
    }

    //: cone_m
    /// <summary>The root of the middle cones' response to linear light, as in OKLab.</summary>
    static double ConeM(double r, double g, double b)
    {
        return CubeRoot(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
    }

    //: cone_s
    /// <summary>The root of the short cones' response to linear light, as in OKLab.</summary>
    static double ConeS(double r, double g, double b)
    {
        return CubeRoot(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
    }

    //: light_r
    /// <summary>Linear red from the roots of the cones' responses.</summary>
    static double LightR(double l, double m, double s)
    {
        double v = 4.0767416621 * (l * l * l) + -3.3077115913 * (m * m * m) + 0.2309699292 * (s * s * s);
        return v > 0.0 ? v : 0.0;
    }

    //: light_g
    /// <summary>Linear green from the roots of the cones' responses.</summary>
    static double LightG(double l, double m, double s)
    {
        double v = -1.2684380046 * (l * l * l) + 2.6097574011 * (m * m * m) + -0.3413193965 * (s * s * s);
        return v > 0.0 ? v : 0.0;
    }

    //: light_b
    /// <summary>Linear blue from the roots of the cones' responses.</summary>
    static double LightB(double l, double m, double s)
    {
        double v = -0.0041960863 * (l * l * l) + -0.7034186147 * (m * m * m) + 1.707614701 * (s * s * s);
        return v > 0.0 ? v : 0.0;
    }

    //: faded
    /// <summary>On the way from one level to another since a moment, softly; then there to stay.</summary>
    static double Faded(double from, double to, double since, double over, double now)
    {
        if (now >= since + over) return to;
        return Lerp(from, to, EaseSmooth(Clamp((now - since) / over, 0.0, 1.0)));
    }

    //: clean_moment
    /// <summary>Not-a-number is 0; nothing lies beyond 1e9 s.</summary>
    static double CleanMoment(double t)
    {
        if (!(t < -1e-30 || t > 1e-30)) return 0.0;
        return Clamp(t, -1e9, 1e9);
    }

    //: clean_input
    /// <summary>What is not a finite number is fallback; the rest is kept within its bounds.</summary>
    static double CleanInput(double v, double lo, double hi, double fallback)
    {
        if (!(v >= -1.7976931348623157e308 && v <= 1.7976931348623157e308)) return fallback;
        return Clamp(v < -1e-30 || v > 1e-30 ? v : 0.0, lo, hi);
    }

    //: at_most
    /// <summary>The index of what is read, also of a lamp beyond the last.</summary>
    static uint AtMost(uint index, uint last)
    {
        return index < last ? index : last;
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
        return (float)Clamp(v, -3.4028234663852886e38, 3.4028234663852886e38);
    }
    //: end
}
