using System.Globalization;
using LoftyWren.Core.Names;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Signals;

namespace LoftyWren.Core.Hardware;

/// <summary>A list that is made from panels: what it is called, and how it comes about.</summary>
/// <param name="Key">Its name in addresses.</param>
/// <param name="Title">What people call it.</param>
/// <param name="Of">The list for some controllers.</param>
public sealed record HardwareList(string Key, string Title, Func<Project, IReadOnlyList<Controller>, Sheet> Of)
{
    /// <summary>All lists there are.</summary>
    public static IReadOnlyList<HardwareList> All { get; } =
    [
        new("terminals", "Terminal list", Terminals),
        new("cables", "Cable list", Cables),
        new("labels", "Label strips", Labels),
        new("parts", "Parts list", Parts),
    ];

    /// <summary>What the cable of a terminal is called: as somebody wrote, else by the turn of the terminal in its panel.</summary>
    public static string CableOf(Controller controller, Fitting? fitting, int turn) => fitting?.Cable is { Length: > 0 } own ? own : string.Create(CultureInfo.InvariantCulture, $"{controller.Name}-W{turn:000}");

    private static IEnumerable<(Controller Controller, TerminalPlace Place, int Turn, Fitting? Fitting, Point? Point)> Rows(Project project, IEnumerable<Controller> controllers)
    {
        foreach (Controller controller in controllers.OrderBy(c => c.Name, NaturalOrder.Names))
        {
            int turn = 0;
            foreach (TerminalPlace place in PanelTerminals.Of(project, controller))
            {
                Fitting? fitting = project.Find<Fitting>(project.Holder(Fitting.TerminalKey(controller.Id, place.Terminal)));
                yield return (controller, place, ++turn, fitting, fitting is null ? null : project.Find<Point>(fitting.PointId));
            }
        }
    }

    private static string DeviceOf(Project project, Controller controller, IoModule? module) =>
        module is null ? Catalogue.Find(project, controller.ModelId)?.Name ?? controller.ModelId : $"{module.Name} · {Catalogue.Find(project, module.ModelId)?.Name ?? module.ModelId}";

    private static string RangeOf(Fitting? fitting, Point? point) => fitting is not null && fitting.CurveId is null && (fitting.Signal.Asks & SignalAsks.Range) != 0 ? string.Create(CultureInfo.InvariantCulture, $"{fitting.Low:0.###} to {fitting.High:0.###} {point?.Unit}").TrimEnd() : "";

    private static Sheet Terminals(Project project, IReadOnlyList<Controller> controllers) => new("Terminals",
    [
        ["Panel", "Device", "Terminal", "Group", "Signal", "Range", "Point", "Where", "Cable"],
        .. Rows(project, controllers).Select(r => (string[])[r.Controller.Name, DeviceOf(project, r.Controller, r.Place.Module), r.Place.Terminal, r.Place.Group.Name, r.Fitting?.Signal.Name ?? "", RangeOf(r.Fitting, r.Point), r.Point?.Name ?? "spare", r.Point is null ? "" : project.PathOf(r.Point.Id), r.Fitting is null ? "" : CableOf(r.Controller, r.Fitting, r.Turn)]),
    ]);

    private static Sheet Cables(Project project, IReadOnlyList<Controller> controllers) => new("Cables",
    [
        ["Cable", "Panel", "Terminals", "Cores", "Signal", "To", "Where"],
        .. Rows(project, controllers).Where(r => r.Fitting is not null).GroupBy(r => (r.Controller.Id, Cable: CableOf(r.Controller, r.Fitting, r.Turn))).Select(c => (string[])
        [
            c.Key.Cable, c.First().Controller.Name, string.Join(", ", c.Select(r => r.Place.Terminal)), c.Sum(r => r.Fitting!.Signal.Cores).ToString(CultureInfo.InvariantCulture),
            string.Join(", ", c.Select(r => r.Fitting!.Signal.Name).Distinct()), string.Join("; ", c.Select(r => $"{project.Find(r.Point!.OwnerId)?.Name} · {r.Point.Name}")), project.PathOf(c.First().Point!.Id),
        ]),
    ]);

    private static Sheet Labels(Project project, IReadOnlyList<Controller> controllers) => new("Labels",
    [
        ["Panel", "Device", "Terminal", "Line 1", "Line 2", "Cable"],
        .. Rows(project, controllers).Select(r => (string[])[r.Controller.Name, r.Place.Module?.Name ?? r.Controller.Name, r.Place.Terminal, r.Point is null ? "spare" : project.Find(r.Point.OwnerId)?.Name ?? "", r.Point?.Name ?? "", r.Fitting is null ? "" : CableOf(r.Controller, r.Fitting, r.Turn)]),
    ]);

    private static Sheet Parts(Project project, IReadOnlyList<Controller> controllers)
    {
        var counts = controllers.SelectMany(c => project.Referrers<IoModule>(c.Id).Select(m => m.ModelId).Prepend(c.ModelId)).CountBy(id => id)
            .Select(c => (Model: Catalogue.Find(project, c.Key), Id: c.Key, Count: c.Value)).OrderBy(c => c.Model?.Kind).ThenBy(c => c.Model?.Name ?? c.Id, NaturalOrder.Names).ToList();
        static string N(long n) => n.ToString(CultureInfo.InvariantCulture);
        return new Sheet("Parts",
        [
            ["Part", "Name", "Kind", "Width, mm", "Count", "Price each, EUR", "Price, EUR"],
            .. counts.Select(c => (string[])[c.Id, c.Model?.Name ?? "", c.Model?.Kind.ToString().ToLowerInvariant() ?? "", N(c.Model?.WidthMillimetres ?? 0), N(c.Count), N(c.Model?.Price ?? 0), N((long)(c.Model?.Price ?? 0) * c.Count)]),
            ["Total", "", "", "", N(counts.Sum(c => c.Count)), "", N(counts.Sum(c => (long)(c.Model?.Price ?? 0) * c.Count))],
        ]);
    }
}
