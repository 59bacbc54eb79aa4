using System.Text.Json;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Projects;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Libraries;
using LoftyWren.VirtualSite.Plant;
using NodaTime;

namespace LoftyWren.Server.Demo;

/// <summary>What the demo's site file says: when it starts, how far it has run already, and what is wrong with it on purpose.</summary>
public sealed record DemoSite
{
    /// <summary>Local time at which the site is built, as 2026-04-13T05:00.</summary>
    public required string StartsAt { get; init; }

    /// <summary>Local time up to which it has run before anybody looks.</summary>
    public required string RunsTo { get; init; }

    /// <summary>The seed of weather and noise.</summary>
    public int Seed { get; init; } = 41;

    /// <summary>Speed of the site clock afterwards.</summary>
    public int Speed { get; init; } = 60;

    /// <summary>Faults that are built in.</summary>
    public IReadOnlyList<BuiltInFault> Faults { get; init; } = [];

    /// <summary>Outputs that somebody holds.</summary>
    public IReadOnlyList<DemoHold> Holds { get; init; } = [];

    /// <summary>Change sets made after the site was sent, so that the design is ahead of it.</summary>
    public IReadOnlyList<DemoEdit> EditsAfter { get; init; } = [];
}

/// <summary>An output held by hand in the demo.</summary>
public sealed record DemoHold(RecordId PointId, double Value, string Who, string Why, double Minutes);

/// <summary>One edit of the demo after sending.</summary>
public sealed record DemoEdit(string Label, IReadOnlyList<Edit> Edits);

/// <summary>Loads the demo from the readable files of its folder: records as one change set, its templates as a shared library, then the site, sent and run ahead.</summary>
public static class DemoLoader
{
    private const string Library = "demo";

    /// <summary>Loads it.</summary>
    /// <exception cref="InvalidOperationException">What the files hold does not stand; the message says why.</exception>
    /// <exception cref="LoftyWren.Formats.Sheets.FileRefusedException">A file does not hold what it should; the message names it.</exception>
    public static async Task Load(string folder, Workspace workspace, SiteServer site, JobRunner jobs, LibraryStore libraries)
    {
        IReadOnlyList<Edit> edits = ProjectFolder.Read(folder);
        Accept(workspace.Apply(edits, "engineer", "Loaded the demo project"));
        if (libraries.Add(new Library(Library, workspace.Project.Site!.Name, null)))
        {
            foreach (Template template in ProjectFolder.Templates(folder)) libraries.Save(Library, template, 0, DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
        }
        DemoSite demo = JsonSerializer.Deserialize<DemoSite>(await File.ReadAllTextAsync(Path.Combine(folder, "site.json")), RecordJson.Options)!;
        DateTimeZone zone = DateTimeZoneProviders.Tzdb[workspace.Project.Site!.TimeZone!];
        site.Link.Open(Milliseconds(demo.StartsAt, zone));
        // The drawings first, then the wires with the faults of the demo in them.
        var bare = new SitePlan { Seed = demo.Seed, Faults = demo.Faults, TimeZone = zone.Id };
        site.Link.Build("engineer", "Built the virtual site", SiteBuilder.Build(workspace.Project, bare), null);
        foreach (Controller controller in workspace.Project.All<Controller>().OrderBy(c => c.Name))
            await jobs.Finish(jobs.Start("send", $"Send {controller.Name}", "engineer", CommissioningEndpoints.Send(controller, workspace.Project, site.Link, "engineer", 0).Work).Id);
        site.RunAheadTo(Milliseconds(demo.RunsTo, zone));
        foreach (DemoHold hold in demo.Holds)
        {
            site.Link.Hold(hold.Who, $"Held ‘{workspace.Project.Find(hold.PointId)?.Name}’ by hand for {hold.Minutes} min: {hold.Why}", new HoldOrder(hold.PointId, hold.Value, hold.Why, hold.Minutes));
        }
        foreach (DemoEdit edit in demo.EditsAfter) Accept(workspace.Apply(edit.Edits, "engineer", edit.Label));
        site.Link.SetClock("engineer", running: true, demo.Speed, null);
    }

    private static void Accept(ChangeOutcome outcome)
    {
        if (!outcome.Accepted) throw new InvalidOperationException("The demo's records do not stand: " + string.Join(" ", outcome.Refusals.Take(8).Select(r => $"[{r.RecordId}] {r.Sentence}")));
    }

    private static long Milliseconds(string local, DateTimeZone zone) =>
        zone.AtLeniently(NodaTime.Text.LocalDateTimePattern.CreateWithInvariantCulture("yyyy-MM-dd'T'HH:mm").Parse(local).GetValueOrThrow()).ToInstant().ToUnixTimeMilliseconds();
}
