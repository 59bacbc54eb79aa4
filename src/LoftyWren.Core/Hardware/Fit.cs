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
        RecordId id = project.Holder($"source|{point.Id}") ?? RecordId.New("fit");
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

    /// <summary>
    /// Proposes a terminal for every given point that has none: in the order given, each onto the free terminal that can
    /// carry the fewest other signals, so that a dry contact does not use up a universal input while a binary input is free.
    /// </summary>
    public static FitProposal Propose(Project project, Controller controller, IEnumerable<Point> points)
    {
        ControllerModel model = ControllerModel.Find(controller.ModelId)!;
        var own = project.Referrers<Fitting>(controller.Id).ToList();
        var taken = own.Select(f => f.Terminal).ToHashSet();
        int values = own.Count(f => f.Terminal == Fitting.MemoryTerminal);
        var fittings = new List<Fitting>();
        var left = new List<(RecordId, string)>();
        foreach (Point point in points)
        {
            if (project.Holder($"source|{point.Id}") is not null) continue;
            if (point.Role is PointRole.Setpoint or PointRole.Value)
            {
                if (values++ < model.Values) fittings.Add(Make(project, controller, point, Fitting.MemoryTerminal)!);
                else left.Add((point.Id, $"{controller.Name} has no memory left for values ({model.Values})."));
                continue;
            }
            var able = model.Terminals().Where(t => Fitting.Why(point, t.Group, t.Terminal) is null).ToList();
            var free = able.Where(t => !taken.Contains(t.Terminal)).OrderBy(t => t.Group.Signals.Count).ToList();
            if (free.Count > 0)
            {
                taken.Add(free[0].Terminal);
                fittings.Add(Make(project, controller, point, free[0].Terminal)!);
            }
            else left.Add((point.Id, able.Count == 0
                ? $"No terminal of {controller.Name} can carry ‘{point.Name}’."
                : $"All {able.Count} terminals of {controller.Name} that could carry ‘{point.Name}’ are taken."));
        }
        return new FitProposal(fittings, left);
    }
}
