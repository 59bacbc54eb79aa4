namespace LoftyWren.Core.Bus.Behaviours;

/// <summary>
/// How far a blind has come after so much running time. It goes slower near its ends, where the roll is thin and the motor
/// lifts all of it: within <c>slowEnd</c> of either end at <c>ratio</c> of its speed in the middle. Heights are from 0 (open)
/// to 100 % (closed).
/// </summary>
public readonly struct Travel
{
    private readonly double _slow, _share;

    /// <summary>Declares it: the slow part at each end, % of the height, and the speed there as a share of that in the middle.</summary>
    public Travel(double slowEnd, double ratio)
    {
        double part = Math.Clamp(slowEnd, 0, 49) / 100, speed = Math.Clamp(ratio, 0.05, 1);
        _slow = part;
        // The whole way is 1: both slow parts and the middle, each by its speed, the middle's being that which makes it so.
        double whole = (2 * part / speed) + 1 - (2 * part);
        _share = part / speed / whole;
    }

    /// <summary>The height at which its speed changes next on the way from a height downwards (1) or upwards (−1); the end where it does not.</summary>
    public double NextBend(double height, int way)
    {
        double end = way > 0 ? 100 : 0;
        if (_slow == 0) return end;
        double first = way > 0 ? 100 * _slow : 100 * (1 - _slow), second = 100 - first;
        return (first - height) * way > 1e-9 ? first : (second - height) * way > 1e-9 ? second : end;
    }

    /// <summary>What part of the whole running time brings it from open to a height, 0 to 1.</summary>
    public double TimeTo(double height)
    {
        double h = Math.Clamp(height / 100, 0, 1);
        if (_slow == 0) return h;
        return h < _slow ? _share * h / _slow : h > 1 - _slow ? 1 - (_share * (1 - h) / _slow) : _share + ((1 - (2 * _share)) * (h - _slow) / (1 - (2 * _slow)));
    }

    /// <summary>The height to which a part of the whole running time brings it from open.</summary>
    public double HeightAfter(double time)
    {
        double t = Math.Clamp(time, 0, 1);
        if (_slow == 0) return 100 * t;
        return 100 * (t < _share ? _slow * t / _share : t > 1 - _share ? 1 - (_slow * (1 - t) / _share) : _slow + ((1 - (2 * _slow)) * (t - _share) / (1 - (2 * _share))));
    }
}
