namespace LoftyWren.Core.Signals;

/// <summary>A measuring element: how what it gives follows what it measures. Both ways, over its range; outside, not a number.</summary>
public abstract class Curve
{
    /// <summary>The lowest and the highest value it is made for, in the unit that it measures.</summary>
    public abstract (double Low, double High) Range { get; }

    /// <summary>What it gives at a value, held at the ends of its range.</summary>
    public double RawOf(double value) => Give(Math.Clamp(value, Range.Low, Range.High));

    /// <summary>The value at what it gives; not a number where no value within its range gives that.</summary>
    public abstract double ValueOf(double raw);

    /// <summary>What it gives at a value within its range.</summary>
    protected abstract double Give(double value);

    /// <summary>What it gives at both ends, the smaller first.</summary>
    public (double Low, double High) RawRange
    {
        get
        {
            double a = Give(Range.Low), b = Give(Range.High);
            return a < b ? (a, b) : (b, a);
        }
    }

    /// <summary>Platinum, 100 Ω at 0 °C, IEC 60751; °C to Ω.</summary>
    public static Curve Pt100 { get; } = new Platinum(100);

    /// <summary>Platinum, 1000 Ω at 0 °C, IEC 60751; °C to Ω.</summary>
    public static Curve Pt1000 { get; } = new Platinum(1000);

    /// <summary>Nickel, 1000 Ω at 0 °C and 6180 ppm/K between 0 and 100 °C, DIN 43760; °C to Ω.</summary>
    public static Curve Ni1000 { get; } = new Nickel(1000);

    /// <summary>A thermistor of 10 kΩ at 25 °C by the Steinhart–Hart coefficients that are published for β(25/85) ≈ 3977 K; °C to Ω.</summary>
    public static Curve Ntc10K { get; } = new Thermistor(1.129241e-3, 2.341077e-4, 8.775468e-8);

    /// <summary>A thermistor of 20 kΩ at 25 °C whose Steinhart–Hart curve goes through 20 000 Ω at 25 °C, 70 140 Ω at 0 °C and 1107 Ω at 100 °C; °C to Ω.</summary>
    public static Curve Ntc20K { get; } = Thermistor.Through((0, 70_140), (25, 20_000), (100, 1107));

    /// <summary>
    /// Platinum by IEC 60751: R0·(1 + A·t + B·t² + C·(t − 100)·t³), the last term below 0 °C only, from −200 to 850 °C.
    /// Back: from 0 °C up the quadratic is solved exactly; below, Newton steps on the full polynomial bring it under 1 µK.
    /// </summary>
    private sealed class Platinum(double r0) : Curve
    {
        private const double A = 3.9083e-3, B = -5.775e-7, C = -4.183e-12;
        private readonly double _lowest = r0 * Ratio(-200), _highest = r0 * Ratio(850);

        public override (double Low, double High) Range => (-200, 850);

        private static double Ratio(double t) => 1 + (A * t) + (B * t * t) + (t < 0 ? C * (t - 100) * t * t * t : 0);

        protected override double Give(double value) => r0 * Ratio(value);

        public override double ValueOf(double raw)
        {
            // A hundred-thousandth of slack, so that the ends of the range are inside as the standard's table rounds them.
            if (!(raw >= _lowest * (1 - 1e-5) && raw <= _highest * (1 + 1e-5))) return double.NaN;
            double t = (-A + Math.Sqrt((A * A) - (4 * B * (1 - (raw / r0))))) / (2 * B);
            if (raw >= r0) return t;
            for (int i = 0; i < 4; i++) t -= (Ratio(t) - (raw / r0)) / (A + (2 * B * t) + (C * ((4 * t * t * t) - (300 * t * t))));
            return t;
        }
    }

    /// <summary>Nickel by DIN 43760: R0·(1 + 5.485·10⁻³·t + 6.65·10⁻⁶·t² + 2.805·10⁻¹¹·t⁴ − 2·10⁻¹⁷·t⁶), from −60 to 250 °C; back by Newton steps.</summary>
    private sealed class Nickel(double r0) : Curve
    {
        private const double A = 5.485e-3, B = 6.65e-6, C = 2.805e-11, D = -2e-17;
        private readonly double _lowest = r0 * Ratio(-60), _highest = r0 * Ratio(250);

        public override (double Low, double High) Range => (-60, 250);

        private static double Ratio(double t)
        {
            double square = t * t;
            return 1 + (A * t) + (B * square) + (C * square * square) + (D * square * square * square);
        }

        protected override double Give(double value) => r0 * Ratio(value);

        public override double ValueOf(double raw)
        {
            if (!(raw >= _lowest * (1 - 1e-5) && raw <= _highest * (1 + 1e-5))) return double.NaN;
            double t = ((raw / r0) - 1) / 6.18e-3;
            for (int i = 0; i < 6; i++)
            {
                double square = t * t;
                t -= (Ratio(t) - (raw / r0)) / (A + (2 * B * t) + (4 * C * square * t) + (6 * D * square * square * t));
            }
            return t;
        }
    }

    /// <summary>
    /// A thermistor by Steinhart and Hart (1968): 1/T = a + b·ln R + c·(ln R)³ with T in K and R in Ω, from −50 to 150 °C.
    /// The way back to R solves the cubic in ln R in closed form.
    /// </summary>
    private sealed class Thermistor : Curve
    {
        private const double Zero = 273.15;
        private readonly double _a, _b, _c, _least, _most;

        public Thermistor(double a, double b, double c)
        {
            (_a, _b, _c) = (a, b, c);
            (_least, _most) = (Give(150), Give(-50));
        }

        public static Thermistor Through((double Celsius, double Ohms) p, (double Celsius, double Ohms) q, (double Celsius, double Ohms) r)
        {
            double l1 = Math.Log(p.Ohms), l2 = Math.Log(q.Ohms), l3 = Math.Log(r.Ohms), y1 = 1 / (p.Celsius + Zero), y2 = 1 / (q.Celsius + Zero), y3 = 1 / (r.Celsius + Zero);
            double g2 = (y2 - y1) / (l2 - l1), g3 = (y3 - y1) / (l3 - l1);
            double c = (g3 - g2) / (l3 - l2) / (l1 + l2 + l3), b = g2 - (c * ((l1 * l1) + (l1 * l2) + (l2 * l2)));
            return new Thermistor(y1 - (l1 * (b + (l1 * l1 * c))), b, c);
        }

        public override (double Low, double High) Range => (-50, 150);

        protected override double Give(double value)
        {
            double x = (_a - (1 / (value + Zero))) / _c, y = Math.Sqrt(Math.Pow(_b / (3 * _c), 3) + (x * x / 4));
            return Math.Exp(Math.Cbrt(y - (x / 2)) - Math.Cbrt(y + (x / 2)));
        }

        public override double ValueOf(double raw)
        {
            if (!(raw >= _least * (1 - 1e-5) && raw <= _most * (1 + 1e-5))) return double.NaN;
            double l = Math.Log(raw);
            return (1 / (_a + (l * (_b + (_c * l * l))))) - Zero;
        }
    }
}

/// <summary>A curve by points, straight between them; what is given must rise or fall all along, so that it can be read back.</summary>
public sealed class PointCurve : Curve
{
    private readonly double[] _raws, _values;
    private readonly bool _falls;

    /// <summary>Makes a curve of at least two points, with what is given rising or falling all along.</summary>
    /// <exception cref="ArgumentException">Fewer than two points, or two between which it turns.</exception>
    public PointCurve(IReadOnlyList<(double Raw, double Value)> points)
    {
        if (Trouble(points) is { } trouble) throw new ArgumentException(trouble, nameof(points));
        var ordered = points.OrderBy(p => p.Raw).ToList();
        (_raws, _values) = ([.. ordered.Select(p => p.Raw)], [.. ordered.Select(p => p.Value)]);
        _falls = _values[^1] < _values[0];
    }

    /// <summary>What keeps points from making a curve, in words, or null.</summary>
    public static string? Trouble(IReadOnlyList<(double Raw, double Value)> points)
    {
        if (points.Count < 2) return "A curve needs at least two points.";
        if (points.Any(p => !double.IsFinite(p.Raw) || !double.IsFinite(p.Value))) return "A curve is made of finite numbers.";
        var ordered = points.OrderBy(p => p.Raw).ToList();
        int way = Math.Sign(ordered[1].Value - ordered[0].Value);
        for (int i = 1; i < ordered.Count; i++)
        {
            if (ordered[i].Raw == ordered[i - 1].Raw) return FormattableString.Invariant($"Two points stand at {ordered[i].Raw}. Leave one of them out.");
            if (Math.Sign(ordered[i].Value - ordered[i - 1].Value) != way || way == 0)
                return FormattableString.Invariant($"The curve turns or stands still between {ordered[i - 1].Raw} and {ordered[i].Raw}; it must rise or fall all along, so that each reading means one value.");
        }
        return null;
    }

    /// <inheritdoc/>
    public override (double Low, double High) Range => _falls ? (_values[^1], _values[0]) : (_values[0], _values[^1]);

    /// <inheritdoc/>
    public override double ValueOf(double raw) => raw >= _raws[0] && raw <= _raws[^1] ? Between(_raws, _values, raw) : double.NaN;

    /// <inheritdoc/>
    protected override double Give(double value)
    {
        int n = _values.Length, low = 0;
        while (low < n - 2 && (_falls ? _values[low + 1] > value : _values[low + 1] < value)) low++;
        return _raws[low] + ((value - _values[low]) / (_values[low + 1] - _values[low]) * (_raws[low + 1] - _raws[low]));
    }

    private static double Between(double[] from, double[] to, double at)
    {
        int low = 0, high = from.Length - 1;
        while (high - low > 1)
        {
            int middle = (low + high) / 2;
            if (from[middle] <= at) low = middle;
            else high = middle;
        }
        return to[low] + ((at - from[low]) / (from[high] - from[low]) * (to[high] - to[low]));
    }
}
