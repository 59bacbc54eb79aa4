using LoftyWren.Core.Controllers;
using LoftyWren.Core.Live;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Live;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>What is to stop the keeping of scans; nothing to go on.</summary>
public sealed record ScansAsked(ScanStop? Stop);

/// <summary>A value over the scans that are kept: one number a scan, null where there was none.</summary>
public sealed record ScanCourse(IReadOnlyList<double?> Values, bool Binary, string? Unit);

/// <summary>Values that differ between two kept scans, as they were said in each.</summary>
public sealed record ScanDifference(string Address, string Before, string After);

/// <summary>The last scans of a sequence where it runs: kept while somebody looks, stepped through, stopped on a condition, laid side by side.</summary>
internal static class ScanEndpoints
{
    private const string NotThere = "This sequence does not run yet, so it has no scans to look back at. Choose its controller and send to it first.";

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/sequences/{id}/scans", Results<Ok<KeptScans>, ProblemHttpResult> (string id, ScansAsked asked, Workspace workspace, ILink site) =>
            Host(workspace, id) is not var (sequence, host) ? Problems.Missing("sequence")
            : asked.Stop is { } stop && !Addresses(sequence).Contains(stop.Address) ? Problems.Refused("What is to stop it is not a value of this sequence. Choose one of its inputs, blocks or outputs.")
            : host is { } on && site.KeepScans(on, sequence.Id, Addresses(sequence), asked.Stop) is { } kept ? TypedResults.Ok(kept) : Problems.Refused(NotThere)).For(Role.Viewer);
        api.MapGet("/sequences/{id}/scans", Results<Ok<KeptScans>, ProblemHttpResult> (string id, Workspace workspace, ILink site) =>
            Host(workspace, id) is not var (sequence, host) ? Problems.Missing("sequence") : host is { } on && site.Scans(on, sequence.Id) is { } kept ? TypedResults.Ok(kept) : Problems.Refused(NotThere)).For(Role.Viewer);
        api.MapGet("/sequences/{id}/scans/{number}", Results<Ok<List<LiveValue>>, ProblemHttpResult> (string id, long number, Workspace workspace, ILink site) =>
            Host(workspace, id) is var (sequence, host) && host is { } on && Values(site, on, sequence.Id, number) is { } values ? TypedResults.Ok(values) : Problems.Refused("This scan is no longer kept. Choose a later one.")).For(Role.Viewer);
        api.MapGet("/sequences/{id}/scans/{number}/against/{other}", Results<Ok<List<ScanDifference>>, ProblemHttpResult> (string id, long number, long other, Workspace workspace, ILink site) =>
            Host(workspace, id) is var (sequence, host) && host is { } on && Values(site, on, sequence.Id, number) is { } now && Values(site, on, sequence.Id, other) is { } then
                ? TypedResults.Ok(then.Zip(now).Where(p => p.First.Text != p.Second.Text || p.First.F != p.Second.F).Select(p => new ScanDifference(p.First.Id, p.First.Text, p.Second.Text)).ToList()) : Problems.Refused("One of these scans is no longer kept. Choose a later one.")).For(Role.Viewer);
        api.MapGet("/sequences/{id}/scans/course", Results<Ok<ScanCourse>, ProblemHttpResult> (string id, string address, Workspace workspace, ILink site) =>
        {
            if (Host(workspace, id) is not var (sequence, host) || host is not { } on || site.Scans(on, sequence.Id) is not { } kept || site.ScanCourse(on, sequence.Id, address) is not { } course) return Problems.Refused("This value is not kept.");
            ValueForm form = kept.Forms[kept.Addresses.ToList().IndexOf(address)];
            return TypedResults.Ok(new ScanCourse([.. course.Select(r => r.IsUsable ? r.Value : (double?)null)], form.Kind == Core.Points.PointKind.Binary, form.Unit));
        }).For(Role.Viewer);
    }

    private static (Sequence Sequence, RecordId? Host)? Host(Workspace workspace, string id) => RecordId.IsValid(id) && workspace.Project.Find<Sequence>(new RecordId(id)) is { } sequence ? (sequence, sequence.ControllerId) : null;

    /// <summary>All that flows in a sequence: what it reads, what its blocks give, what its outputs are.</summary>
    private static List<string> Addresses(Sequence sequence) =>
    [
        .. sequence.Sources().Select(s => s.Source).Select(s => s switch { PointSource p => LiveAddress.Point(p.PointId), ScheduleSource t => LiveAddress.Schedule(t.ScheduleId, t.Ahead), _ => null }).OfType<string>()
            .Concat(sequence.Blocks.SelectMany(b => BlockType.Of(b).Outputs.Select(o => LiveAddress.Pin(sequence.Id, b.Id, o.Name))))
            .Concat(sequence.Commands.Select(c => LiveAddress.Point(c.PointId))).Distinct(),
    ];

    private static List<LiveValue>? Values(ILink site, RecordId host, RecordId sequence, long number)
    {
        if (site.Scans(host, sequence) is not { } kept || site.Scan(host, sequence, number) is not { } readings) return null;
        return [.. readings.Select((r, i) => new LiveValue(kept.Addresses[i], double.IsFinite(r.Value) ? r.Value : null, (int)r.Status, r.AtMilliseconds, kept.Forms[i].Say(r)))];
    }
}
