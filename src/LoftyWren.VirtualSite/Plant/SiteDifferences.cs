using LoftyWren.Core.Records;

namespace LoftyWren.VirtualSite.Plant;

/// <summary>What is to be done with something of the site.</summary>
public enum BuildStep
{
    /// <summary>It is not there yet.</summary>
    Build,
    /// <summary>It is there, but otherwise.</summary>
    Change,
    /// <summary>It is drawn no more.</summary>
    TakeAway,
}

/// <summary>One room, machine or wire that differs between the site as it stands and as it is drawn; a wire with its host and terminal. What it was and will be, in words, where it is changed.</summary>
public sealed record SiteDifference(string Sort, BuildStep Step, RecordId? Id, string Name, RecordId? HostId, string? Terminal, string? Detail);

/// <summary>The difference of two plans of the site, by rooms, machines and wires.</summary>
public static class SiteDifferences
{
    /// <summary>All differences: rooms, then machines, then wires.</summary>
    public static IReadOnlyList<SiteDifference> Between(SitePlan built, SitePlan drawn) =>
    [
        .. Of("room", built.Rooms, drawn.Rooms, r => r.Id, r => r.Name, RoomDetail),
        .. Of("machine", built.Machines, drawn.Machines, m => m.Id, m => m.Name, (was, now) => was.Kind != now.Kind ? $"{was.Kind} → {now.Kind}" : was.Room != now.Room ? "it stands elsewhere" : was.Name != now.Name ? $"was called {was.Name}" : "its water or its air comes from elsewhere"),
        .. Wires(built, drawn),
    ];

    /// <summary>The wires of one host that differ.</summary>
    public static IReadOnlyList<SiteDifference> OfWires(IEnumerable<Wire> built, IEnumerable<Wire> drawn)
    {
        var before = built.ToDictionary(w => w.Terminal);
        var after = drawn.ToDictionary(w => w.Terminal);
        var list = new List<SiteDifference>();
        foreach (Wire wire in after.Values)
        {
            if (!before.TryGetValue(wire.Terminal, out Wire? was)) list.Add(Line(wire, BuildStep.Build, null));
            // What a wire is called, for which point it was drawn and who thought of it changes nothing in the building.
            else if (was with { Name = wire.Name, PointId = wire.PointId, IsChosen = wire.IsChosen } != wire) list.Add(Line(wire, BuildStep.Change, WireDetail(was, wire)));
        }
        list.AddRange(before.Values.Where(w => !after.ContainsKey(w.Terminal)).Select(w => Line(w, BuildStep.TakeAway, null)));
        return [.. list.OrderBy(l => l.Terminal, StringComparer.Ordinal)];

        static SiteDifference Line(Wire wire, BuildStep step, string? detail) => new("wire", step, wire.PointId, wire.Name, wire.ControllerId, wire.Terminal, detail);
    }

    private static IEnumerable<SiteDifference> Wires(SitePlan built, SitePlan drawn)
    {
        var before = built.Wires.ToLookup(w => w.ControllerId);
        var after = drawn.Wires.ToLookup(w => w.ControllerId);
        return before.Select(g => g.Key).Union(after.Select(g => g.Key)).Order().SelectMany(host => OfWires(before[host], after[host]));
    }

    private static IEnumerable<SiteDifference> Of<T>(string sort, IReadOnlyList<T> built, IReadOnlyList<T> drawn, Func<T, RecordId> id, Func<T, string> name, Func<T, T, string> detail) where T : class
    {
        var before = built.ToDictionary(id);
        var after = drawn.ToDictionary(id);
        foreach (T each in drawn)
        {
            if (!before.TryGetValue(id(each), out T? was)) yield return new SiteDifference(sort, BuildStep.Build, id(each), name(each), null, null, null);
            else if (!was.Equals(each)) yield return new SiteDifference(sort, BuildStep.Change, id(each), name(each), null, null, detail(was, each));
        }
        foreach (T each in built)
        {
            if (!after.ContainsKey(id(each))) yield return new SiteDifference(sort, BuildStep.TakeAway, id(each), name(each), null, null, null);
        }
    }

    private static string RoomDetail(SiteRoom was, SiteRoom now)
    {
        if (was.AreaSquareMetres != now.AreaSquareMetres) return $"{was.AreaSquareMetres:0.#} m² → {now.AreaSquareMetres:0.#} m²";
        if (was.BackgroundHeating != now.BackgroundHeating) return now.BackgroundHeating ? "its old radiators come back into use" : "a fan-coil under control heats it in place of the old radiators";
        if (was.Name != now.Name) return $"was called {was.Name}";
        return "its walls to other rooms differ";
    }

    private static string WireDetail(Wire was, Wire now) => was.Quantity != now.Quantity ? $"{was.Quantity} → {now.Quantity}" : was.Signal != now.Signal ? $"{was.Signal.Name} → {now.Signal.Name}" : $"{was.Low:0.###}–{was.High:0.###} {was.Unit} → {now.Low:0.###}–{now.High:0.###} {now.Unit}";
}
