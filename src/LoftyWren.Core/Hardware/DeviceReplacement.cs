using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>How the sensor or actuator that comes is wired: what is not given stays.</summary>
/// <param name="Signal">What it gives or takes.</param>
/// <param name="Terminal">The terminal it comes to; that of the one that goes where none is given.</param>
/// <param name="CurveId">The curve it follows.</param>
/// <param name="Low">What the low end of its signal stands for.</param>
/// <param name="High">What the high end stands for.</param>
/// <param name="ToleranceClass">Its class of accuracy.</param>
public sealed record NewWiring(Signal Signal, string? Terminal = null, RecordId? CurveId = null, double? Low = null, double? High = null, string? ToleranceClass = null);

/// <summary>
/// A device in the place of another: the point that stays gets other wiring, the points that only the old device had go, and
/// what used those gets what was chosen. All of it is one change.
/// </summary>
/// <param name="Before">The wiring as it is.</param>
/// <param name="After">The wiring as it will be.</param>
/// <param name="Removal">What goes, and what becomes of those that use it.</param>
public sealed record DeviceReplacement(Fitting Before, Fitting After, Removal Removal)
{
    /// <summary>Works out a replacement, or answers why it cannot be.</summary>
    public static (DeviceReplacement? Replacement, string? Refused) Of(Project project, Point point, NewWiring comes, IReadOnlyCollection<RecordId> goes, IReadOnlyCollection<RemovalChoice> choices)
    {
        if (project.BindingOf(point.Id) is not Fitting { IsInMemory: false } fitting || project.Find<Controller>(fitting.ControllerId) is not { } controller) return (null, $"‘{point.Name}’ is on no terminal, so no device hangs there to be replaced. Put it onto one first.");
        if (goes.Contains(point.Id)) return (null, $"‘{point.Name}’ cannot go and stay. To take it away altogether, remove it.");
        string terminal = comes.Terminal ?? fitting.Terminal;
        if (PanelTerminals.Find(project, controller, terminal) is not { } place) return (null, $"{controller.Name} has no terminal ‘{terminal}’. It has {PanelTerminals.InWords(project, controller)}.");
        // A correction was found for the sensor that goes; the one that comes begins without.
        Fitting after = fitting with
        {
            Name = terminal,
            Terminal = terminal,
            ModuleId = place.Module?.Id,
            Signal = comes.Signal,
            CurveId = comes.CurveId,
            Low = comes.Low ?? fitting.Low,
            High = comes.High ?? fitting.High,
            ToleranceClass = comes.ToleranceClass,
            Correction = 0,
        };
        return (new DeviceReplacement(fitting, after, Removal.Of(project, goes, choices)), Removal.Refuse(project, choices));
    }

    /// <summary>The whole as one change.</summary>
    public IReadOnlyList<Edit> EditsIn(Project project) => [.. RecordJson.Same(Before, After) ? [] : new[] { Edit.Of(After, project.FindEntry(Before.Id)!.Revision) }, .. Removal.Edits];

    /// <summary>The other points of the same equipment or room that hang on the same controller: what the old device may have had besides.</summary>
    public static IReadOnlyList<Point> Beside(Project project, Point point) =>
        project.BindingOf(point.Id) is not { } home ? [] : [.. project.Referrers<Point>(point.OwnerId).Where(p => p.Id != point.Id && project.BindingOf(p.Id)?.HostId == home.HostId).OrderBy(p => p.Name, Names.NaturalOrder.Names)];
}
