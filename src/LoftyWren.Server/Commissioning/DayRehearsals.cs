using System.Collections.Concurrent;
using System.Globalization;
using LoftyWren.Core.Images;
using LoftyWren.Core.OlderPrograms;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using LoftyWren.VirtualSite.Devices;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Commissioning;

/// <summary>A point that went otherwise over the day: whether it is an output or another value, for how many minutes, how far at most, when first and between what, and its means, all in words.</summary>
public sealed record LivedPoint(RecordId Id, string Name, string Path, bool IsCommand, int Minutes, string Most, long FirstAt, string Before, string After, string MeanBefore, string MeanAfter);

/// <summary>A day of the design beside what runs: over how many minutes, what went otherwise, how many points did so by less than is worth reading, and whether both are still what they were.</summary>
public sealed record LivedDay(int Minutes, long From, IReadOnlyList<LivedPoint> Lines, int Slight, string Sentence, bool IsCurrent);

/// <summary>The designs that were rehearsed over a day beside what runs: each on copies of the virtual site, with the same weather and the same chance.</summary>
public sealed class DayRehearsals(Workspace workspace, IVirtualSite site, ImageCache images)
{
    private const int DayMinutes = 24 * 60, PieceMinutes = 30;

    /// <summary>Less than this, in the unit of a point, is not worth reading.</summary>
    private const double Slight = 0.05;

    private readonly ConcurrentDictionary<RecordId, (LivedDay View, string Design, string Installed)> _done = new();

    internal static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/commission/{id}/day", Results<Ok<LivedDay>, NoContent> (string id, DayRehearsals days) => days.Of(new RecordId(id)) is { } view ? TypedResults.Ok(view) : TypedResults.NoContent()).For(Role.Technician);
        api.MapPost("/commission/{id}/day", Results<Ok<JobView>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace, IVirtualSite site, DayRehearsals days, JobRunner jobs) =>
        {
            if (CommissioningEndpoints.Find(workspace, id) is not { } host) return Problems.Missing("controller");
            if (site.Find(host.Id) is not { Runs: true }) return Problems.Refused($"{host.Name} runs nothing yet, so there is nothing to lay the design beside. Set it up first.");
            return TypedResults.Ok(jobs.Start("day", $"A day of {host.Name}", http.User.Identity!.Name!, job => days.Run(host, job), "Nothing was changed; resume to begin the day again."));
        }).For(Role.Technician);
    }

    /// <summary>What came of the last day of a host, or null.</summary>
    public LivedDay? Of(RecordId host) => _done.TryGetValue(host, out var done) ? done.View with { IsCurrent = done.Design == images.Design(host)?.Hash && done.Installed == site.Find(host)?.Hash } : null;

    /// <summary>The sequences that a host runs as an older version wrote them and its design has converted.</summary>
    public IReadOnlyList<string> Converted(ProjectRecord host, Installed? installed) =>
        images.ImageOf(installed, site) is { } runs && images.Design(host.Id) is { } design ? ProgramConversion.ConvertedSince(runs.Records, design.Image.Records) : [];

    /// <summary>Why the design of a host may not be sent yet: what was converted from an older version is lived beside it for a day first. Null when it may be.</summary>
    public string? MustLive(ProjectRecord host) => Converted(host, site.Find(host.Id)) is not { Count: > 0 } names || Of(host.Id) is { IsCurrent: true, Minutes: >= DayMinutes } ? null
        : $"{string.Join(", ", names.Take(3).Select(n => $"‘{n}’"))}{(names.Count > 3 ? $" and {names.Count - 3} more" : "")} of {host.Name} {(names.Count == 1 ? "was" : "were")} converted from an older version. Live a day of both first, on the page of its send, and see what goes otherwise.";

    /// <summary>Runs a day of the design of a host beside what runs there.</summary>
    public async Task<string> Run(ProjectRecord host, JobContext job)
    {
        DesignImage design = images.Design(host.Id) ?? throw new InvalidOperationException($"{host.Name} is not in the project any more.");
        string installed = site.Find(host.Id)?.Hash ?? "";
        job.Report(0, DayMinutes, "Copying the site");
        long from = site.Pulse().Now;
        int number = site.BeginDay(host.Id, HostKinds.Of(host)!.Key, design.Bytes);
        string? failure = null;
        int minutes = 0;
        try
        {
            while (minutes < DayMinutes && failure is null)
            {
                job.Report(minutes, DayMinutes, $"{minutes / 60} of 24 h lived twice, with what runs and with the design");
                failure = await Task.Run(() => site.RunDay(number, PieceMinutes));
                minutes += PieceMinutes;
            }
        }
        finally
        {
            var result = site.EndDay(number);
            if (minutes >= DayMinutes || failure is not null) Keep(host, design, installed, minutes, from, failure, result);
        }
        return _done[host.Id].View.Sentence;
    }

    private void Keep(ProjectRecord host, DesignImage design, string installed, int minutes, long from, string? failure, IReadOnlyList<PointDay> result)
    {
        Project project = workspace.Project;
        // What moves with the weather moves a little with everything; of that there is only a count.
        bool IsSlight(PointDay day) => day.Most > 0 && day.Most < Slight && project.Find<Point>(day.PointId) is { Kind: PointKind.Analog };
        List<LivedPoint> lines = [.. result.Where(d => !IsSlight(d)).Select(d => Line(project, d)).OrderByDescending(l => l.IsCommand)];
        int commands = lines.Count(l => l.IsCommand);
        string sentence = failure is not null ? $"The design of {host.Name} failed after {minutes / 60} h: {failure}."
            : result.Count == 0 ? $"Over a day the design of {host.Name} does exactly what runs there does."
            : lines.Count == 0 ? $"Over a day nothing goes otherwise by {Slight} or more under the design of {host.Name}."
            : $"Over a day {commands} output{(commands == 1 ? " goes" : "s go")} otherwise under the design of {host.Name}, and {lines.Count - commands} other value{(lines.Count - commands == 1 ? "" : "s")}.";
        _done[host.Id] = (new LivedDay(minutes, from, lines, result.Count - lines.Count, sentence, true), design.Hash, installed);
    }

    private static LivedPoint Line(Project project, PointDay day)
    {
        Point? point = project.Find<Point>(day.PointId);
        string Say(Reading? reading) => reading is not { } r ? "not there" : point is null ? r.Value.ToString("0.##", CultureInfo.InvariantCulture) : ValueText.Of(r, point.Kind, point.Unit, point.StateTexts);
        // The mean of a binary is the share of the time that it is on.
        string Mean(double? mean) => mean is not { } m ? "–" : point is null || point.Kind == PointKind.Analog ? FormattableString.Invariant($"{m:0.##}{(point?.Unit is { } unit ? $" {unit}" : "")}") : point.Kind == PointKind.Binary ? FormattableString.Invariant($"{m * 100:0.#} % of the time {point.StateTexts.ElementAtOrDefault(1) ?? "on"}") : "";
        string most = point is { Kind: PointKind.Analog } ? FormattableString.Invariant($"{day.Most:0.##}{(Core.Units.Unit.Find(point.Unit)?.Difference.Symbol is { } unit ? $" {unit}" : "")}") : "another state";
        return new LivedPoint(day.PointId, point is null ? day.PointId.Value : $"{project.Find(point.OwnerId)?.Name} · {point.Name}", point is null ? "" : project.PathOf(point.Id), point?.Role == PointRole.Command, day.Minutes, most, day.FirstAt, Say(day.Before), Say(day.After), Mean(day.MeanBefore), Mean(day.MeanAfter));
    }
}
