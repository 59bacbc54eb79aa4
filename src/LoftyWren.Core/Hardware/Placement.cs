using Google.OrTools.Sat;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>A device that points may be put on, with what it has free.</summary>
/// <param name="Model">Its model.</param>
/// <param name="Free">How many terminals of each of the model's groups are free.</param>
/// <param name="IsThere">Whether it stands there already; else it may be added.</param>
public sealed record PlacementDevice(HardwareModel Model, IReadOnlyList<int> Free, bool IsThere);

/// <summary>Points that want the same: so many of them, each with one of some signals.</summary>
/// <param name="Signals">What could serve each.</param>
/// <param name="Direction">Whether they are measured or driven.</param>
/// <param name="Count">How many there are.</param>
/// <param name="Together">A number that those share which must all be on one device; null for those that need not.</param>
/// <param name="IsSpare">Whether they are only to find room, for later.</param>
public sealed record PlacementUnit(IReadOnlyList<Signal> Signals, Direction Direction, int Count, int? Together = null, bool IsSpare = false);

/// <summary>What limits devices that are added.</summary>
/// <param name="Modules">How many more the controller takes.</param>
/// <param name="Millimetres">How much room the rails have left.</param>
/// <param name="Supplies">What each supply has left, mA; one that is not named is fed from outside.</param>
public sealed record PlacementLimits(int Modules, int Millimetres, IReadOnlyDictionary<string, int> Supplies);

/// <summary>A placement.</summary>
/// <param name="On">For each unit, how many of it go onto which device and which of its groups.</param>
/// <param name="Added">Which devices that were not there are added.</param>
/// <param name="Price">What those cost.</param>
/// <param name="LeastPrice">Less than this they cannot cost, for as much as is placed.</param>
/// <param name="Placed">How many points have found a terminal, spare ones not counted.</param>
/// <param name="CouldBePlaced">More than this cannot be placed.</param>
/// <param name="SpareLacking">How many spare ones found no room.</param>
public sealed record PlacementResult(IReadOnlyList<IReadOnlyList<(int Device, int Group, int Count)>> On, IReadOnlyList<int> Added, int Price, int LeastPrice, int Placed, int CouldBePlaced, int SpareLacking)
{
    /// <summary>Whether nothing better can be.</summary>
    public bool IsBest => Price == LeastPrice && Placed == CouldBePlaced;
}

/// <summary>
/// Which points go onto which devices, and which devices are added for them. First as many points find a terminal as can,
/// then as much spare as can be; then what is added costs the least; then points have their most usual signals and leave
/// those terminals free that carry most. Exact within a stated effort, which is counted in steps of the solver and not in
/// seconds, so that the same question always has the same answer; beyond it the best found, with the bound on what is best.
/// </summary>
public static class Placement
{
    /// <summary>Steps of the solver, in its own unit of deterministic time, that a question is worth.</summary>
    public const double Effort = 8;

    private const int Workers = 1;

    /// <summary>Finds a placement; to put nothing anywhere is one, so there always is one.</summary>
    public static PlacementResult Solve(IReadOnlyList<PlacementUnit> units, IReadOnlyList<PlacementDevice> devices, PlacementLimits limits, double effort = Effort)
    {
        var model = new CpModel();
        BoolVar[] used = [.. devices.Select((d, i) => d.IsThere ? One(model) : model.NewBoolVar($"d{i}"))];
        var ways = new List<(int Unit, int Device, int Group, IntVar Count, int Rank)>();
        var placed = new LinearExpr[units.Count];
        var onDevice = new Dictionary<(int Together, int Device), BoolVar>();
        foreach (var group in units.Where(u => u.Together is not null).Select(u => u.Together!.Value).Distinct())
        {
            for (int d = 0; d < devices.Count; d++) onDevice[(group, d)] = model.NewBoolVar($"g{group}d{d}");
            model.AddAtMostOne(Enumerable.Range(0, devices.Count).Select(d => onDevice[(group, d)]));
        }
        for (int u = 0; u < units.Count; u++)
        {
            PlacementUnit unit = units[u];
            var all = new List<IntVar>();
            for (int d = 0; d < devices.Count; d++)
            {
                var here = new List<IntVar>();
                for (int g = 0; g < devices[d].Free.Count; g++)
                {
                    int most = Math.Min(unit.Count, devices[d].Free[g]);
                    if (most <= 0 || RankOf(unit.Signals, unit.Direction, devices[d].Model.Groups[g]) is not { } rank) continue;
                    IntVar count = model.NewIntVar(0, most, $"u{u}d{d}g{g}");
                    here.Add(count);
                    ways.Add((u, d, g, count, rank));
                }
                if (unit.Together is { } group) model.Add(LinearExpr.Sum(here) == unit.Count * (LinearExpr)onDevice[(group, d)]);
                all.AddRange(here);
            }
            placed[u] = LinearExpr.Sum(all);
            model.Add(placed[u] <= unit.Count);
        }
        foreach (var terminals in ways.GroupBy(w => (w.Device, w.Group)))
            model.Add(LinearExpr.Sum(terminals.Select(w => w.Count)) <= devices[terminals.Key.Device].Free[terminals.Key.Group] * (LinearExpr)used[terminals.Key.Device]);
        List<int> addable = [.. Enumerable.Range(0, devices.Count).Where(d => !devices[d].IsThere)];
        if (addable.Count > 0)
        {
            model.Add(LinearExpr.Sum(addable.Select(d => used[d])) <= limits.Modules);
            model.Add(LinearExpr.WeightedSum(addable.Select(d => used[d]), addable.Select(d => (long)devices[d].Model.WidthMillimetres)) <= limits.Millimetres);
            foreach (var (supply, left) in limits.Supplies)
                model.Add(LinearExpr.WeightedSum(addable.Select(d => used[d]), addable.Select(d => Net(devices[d].Model, supply))) <= left);
            // Copies of one model are alike: the first is used first.
            foreach (var copies in addable.GroupBy(d => devices[d].Model.Id))
            {
                foreach (var (first, second) in copies.Zip(copies.Skip(1))) model.AddImplication(used[second], used[first]);
            }
        }
        long perPrice = 1, perSpare = 1 + (perPrice * addable.Sum(d => (long)devices[d].Model.Price)), perPoint = perSpare * (1 + units.Where(u => u.IsSpare).Sum(u => (long)u.Count));
        LinearExpr price = LinearExpr.WeightedSum(addable.Select(d => used[d]), addable.Select(d => (long)devices[d].Model.Price));
        LinearExpr real = LinearExpr.Sum(units.Select((u, i) => (u, i)).Where(x => !x.u.IsSpare).Select(x => placed[x.i])), spare = LinearExpr.Sum(units.Select((u, i) => (u, i)).Where(x => x.u.IsSpare).Select(x => placed[x.i]));
        model.Maximize((real * perPoint) + (spare * perSpare) - price);
        CpSolver best = Run(model, effort);
        // Nothing on nothing is always a placement, so there is always an answer.
        (long Real, long Spare, long Price) found = (best.Value(real), best.Value(spare), best.Value(price));
        long bound = (long)Math.Floor(best.BestObjectiveBound + 1e-6);
        int could = (int)Math.Min(units.Where(u => !u.IsSpare).Sum(u => (long)u.Count), (bound + perSpare - 1) / perPoint);
        int least = (int)Math.Clamp((found.Real * perPoint) + (found.Spare * perSpare) - bound, 0, found.Price);

        // Of all that are as good, the one that people would draw.
        var hints = ways.Select(w => (w.Count, best.Value(w.Count))).ToList();
        model.Add(real == found.Real);
        model.Add(spare == found.Spare);
        model.Add(price <= found.Price);
        model.Minimize(LinearExpr.WeightedSum(ways.Select(w => w.Count), ways.Select(w => (1000L * w.Rank) + (10L * devices[w.Device].Model.Groups[w.Group].Signals.Count) + (devices[w.Device].IsThere ? 0 : 1))));
        foreach (var (count, value) in hints) model.AddHint(count, value);
        CpSolver drawn = Run(model, effort / 2);
        CpSolver answer = drawn.Response?.Status is CpSolverStatus.Optimal or CpSolverStatus.Feasible ? drawn : best;
        var on = units.Select(_ => (IReadOnlyList<(int, int, int)>)new List<(int, int, int)>()).ToArray();
        foreach (var way in ways)
        {
            int count = (int)answer.Value(way.Count);
            if (count > 0) ((List<(int, int, int)>)on[way.Unit]).Add((way.Device, way.Group, count));
        }
        return new PlacementResult(on, [.. addable.Where(d => answer.BooleanValue(used[d]))], (int)found.Price, least, (int)found.Real, could, (int)(units.Where(u => u.IsSpare).Sum(u => u.Count) - found.Spare));
    }

    /// <summary>How far from the most usual the signal is that a group of terminals would give to a point; null when it carries none.</summary>
    public static int? RankOf(IReadOnlyList<Signal> signals, Direction direction, TerminalGroup group)
    {
        if (group.Direction != direction) return null;
        for (int i = 0; i < signals.Count; i++)
        {
            if (group.Signals.Contains(signals[i])) return i;
        }
        return null;
    }

    private static long Net(HardwareModel model, string supply) => model.Draws.Where(c => c.Supply == supply).Sum(c => c.Milliamps) - model.Gives.Where(c => c.Supply == supply).Sum(c => c.Milliamps);

    private static BoolVar One(CpModel model)
    {
        BoolVar one = model.NewBoolVar("there");
        model.Add((LinearExpr)one == 1);
        return one;
    }

    private static CpSolver Run(CpModel model, double effort)
    {
        var solver = new CpSolver { StringParameters = FormattableString.Invariant($"num_workers:{Workers},max_deterministic_time:{effort},random_seed:7") };
        solver.Solve(model);
        return solver;
    }
}
