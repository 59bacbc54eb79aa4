using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>A proposal to put points onto terminals, all at once.</summary>
public sealed record FitProposal(IReadOnlyList<Fitting> Fittings, IReadOnlyList<(RecordId PointId, string Why)> Left);

/// <summary>Finds a terminal for each point: “fit the points”.</summary>
public static class Fit
{
    /// <summary>
    /// A fitting for one point on one terminal with its most usual signal and its limits as the range.
    /// Null when the terminal can carry none of its signals.
    /// </summary>
    public static Fitting? Make(Project project, Controller controller, Point point, string terminal)
    {
        RecordId id = project.BindingOf(point.Id)?.Id ?? RecordId.New("fit");
        if (terminal == Fitting.MemoryTerminal)
            return new Fitting { Id = id, Name = terminal, ControllerId = controller.Id, PointId = point.Id, Terminal = terminal, Signal = Signal.Memory };
        TerminalGroup? group = ControllerModel.Find(controller.ModelId)?.GroupOf(terminal);
        if (group is null) return null;
        var able = Fitting.SignalsFor(point).Intersect(group.Signals).ToList();
        return able.Count == 0 ? null : new Fitting
        {
            Id = id,
            Name = terminal,
            ControllerId = controller.Id,
            PointId = point.Id,
            Terminal = terminal,
            Signal = able[0],
            Low = point.Low ?? 0,
            High = point.High ?? 100,
        };
    }

    /// <summary>Proposes a terminal for every given point that has none: as many points find one as can at all (<see cref="Match"/>).</summary>
    public static FitProposal Propose(Project project, Controller controller, IEnumerable<Point> points)
    {
        ControllerModel model = ControllerModel.Find(controller.ModelId)!;
        int values = ControllerMemory.Of(project, controller)!.Values;
        var waiting = points.Where(p => project.BindingOf(p.Id) is null).ToList();
        var terminals = Match(model, project.Referrers<Fitting>(controller.Id).Select(f => f.Terminal).ToHashSet(), waiting);
        var fittings = new List<Fitting>();
        var left = new List<(RecordId, string)>();
        foreach (var (point, i) in waiting.Select((p, i) => (p, i)))
        {
            if (Fitting.IsForMemory(point))
            {
                if (values < model.Values)
                {
                    values++;
                    fittings.Add(Make(project, controller, point, Fitting.MemoryTerminal)!);
                }
                else left.Add((point.Id, $"{controller.Name} has no memory left for values ({model.Values})."));
            }
            else if (terminals[i] is { } terminal) fittings.Add(Make(project, controller, point, terminal)!);
            else
            {
                int could = model.Terminals().Count(t => Fitting.Why(point, t.Group, t.Terminal) is null);
                left.Add((point.Id, could == 0 ? $"No terminal of {controller.Name} can carry ‘{point.Name}’." : $"All {could} terminals of {controller.Name} that could carry ‘{point.Name}’ are taken."));
            }
        }
        return new FitProposal(fittings, left);
    }

    /// <summary>
    /// A free terminal of a model for each point, or null: exact, whatever the model. As many points as can find one at all;
    /// among all such ways the one that gives most points their most usual signal, then the one that uses up terminals which
    /// carry the fewest signals; where not all can be placed, earlier points come first.
    /// </summary>
    public static string?[] Match(ControllerModel model, IReadOnlySet<string> taken, IReadOnlyList<Point> points)
    {
        var free = model.Terminals().Where(t => !taken.Contains(t.Terminal)).ToList();
        // Every terminal has a column of its own behind the points: to stay free costs nothing.
        double[,] cost = new double[free.Count, points.Count + free.Count];
        for (int t = 0; t < free.Count; t++)
        {
            for (int i = 0; i < points.Count; i++)
            {
                var (terminal, group) = free[t];
                cost[t, i] = Fitting.Why(points[i], group, terminal) is not null
                    ? double.PositiveInfinity
                    : (1000.0 * Fitting.SignalsFor(points[i]).TakeWhile(s => !group.Signals.Contains(s)).Count()) + group.Signals.Count - (1e9 + (1e3 * (points.Count - i)))
                        // Equal ways are told apart by panel order, earlier points on earlier terminals.
                        + (1e-3 * t * (2 - (i / (double)points.Count)));
            }
            for (int f = 0; f < free.Count; f++) cost[t, points.Count + f] = f == t ? 0 : double.PositiveInfinity;
        }
        int[] pointOf = Assignment.Cheapest(cost);
        string?[] terminals = new string?[points.Count];
        for (int t = 0; t < free.Count; t++)
        {
            if (pointOf[t] < points.Count) terminals[pointOf[t]] = free[t].Terminal;
        }
        return terminals;
    }
}
