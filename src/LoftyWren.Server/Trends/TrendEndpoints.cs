using System.Globalization;
using System.Text;
using LoftyWren.Core.Names;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Supervision;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.History;
using Microsoft.AspNetCore.Http.HttpResults;
using NodaTime;

namespace LoftyWren.Server.Trends;

/// <summary>A trend log in a list.</summary>
public sealed record TrendLine(TrendLog Trend, long Revision, RecordId PointId, string Point, string Path, PointKind Kind, string? Unit, string? ChangeUnit, IReadOnlyList<string> StateTexts);

/// <summary>One log drawn into columns: times in ms of site time, and for each column least, greatest and last value; null where there is none.</summary>
public sealed record TrendData(RecordId TrendId, string Name, string? Unit, PointKind Kind, IReadOnlyList<string> StateTexts, IReadOnlyList<long> At, IReadOnlyList<double?> Least, IReadOnlyList<double?> Greatest, IReadOnlyList<double?> Last, double GapAfterSeconds);

/// <summary>How a log stands in its controller: whether it is there at all, whether it is full and has stopped, how many samples it took since it began, and how many it holds.</summary>
public sealed record TrendLogState(bool IsInstalled, bool HasStopped, long Taken, int Holds);

internal static class TrendEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/trends", (Workspace workspace) => workspace.Project.All<TrendLog>().Select(t => Line(workspace.Project, t)).OfType<TrendLine>().OrderBy(t => t.Path, NaturalOrder.Names).ThenBy(t => t.Point, NaturalOrder.Names).ToList()).For(Role.Viewer);
        api.MapGet("/trends/{id}/log", Results<Ok<TrendLogState>, ProblemHttpResult> (string id, Workspace workspace, ILink site) =>
            Find(workspace, id) is { } trend ? TypedResults.Ok(StateOf(trend, site)) : Problems.Missing("trend")).For(Role.Viewer);
        api.MapPost("/trends/{id}/empty", Results<Ok<TrendLogState>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace, ILink site, SiteServer server) =>
        {
            if (Find(workspace, id) is not { } trend) return Problems.Missing("trend");
            if (!StateOf(trend, site).IsInstalled) return Problems.Refused($"‘{trend.Name}’ is not installed on the site yet, so there is nothing to empty. Review and send its controller first.");
            server.Collect();
            site.EmptyLog(http.User.Identity!.Name!, $"Emptied the trend log ‘{trend.Name}’ in its controller and let it begin again; collected samples stay", trend.PointId, trend.Id);
            return TypedResults.Ok(StateOf(trend, site));
        }).For(Role.Technician);
        api.MapGet("/trends/data", Results<Ok<List<TrendData>>, ProblemHttpResult> (string ids, long from, long to, int? columns, Workspace workspace, HistoryStore history) =>
        {
            var asked = ids.Split(',', StringSplitOptions.RemoveEmptyEntries);
            if (asked.Length > 12) return Problems.Refused("A chart shows at most 12 trends.");
            if (!(to > from)) return Problems.Refused("The end of the chart must be after its beginning.");
            var list = new List<TrendData>();
            foreach (string id in asked)
            {
                if (!RecordId.IsValid(id) || workspace.Project.Find<TrendLog>(new RecordId(id)) is not { } trend || Line(workspace.Project, trend) is not { } line) return Problems.Missing("trend");
                var buckets = history.Buckets(trend.Id, from, to, Math.Clamp(columns ?? 600, 10, 4000));
                if (trend.Mode == TrendMode.Change && history.LastBefore(trend.Id, from) is { } carried)
                    buckets = [new Bucket(from, carried.Value, carried.Value, carried.Value, 1, carried.Status), .. buckets];
                // A log by change is silent while nothing happens; only an interval log that misses beats has a gap.
                double gap = trend.Mode == TrendMode.Interval ? trend.IntervalSeconds * 2.5 : 0;
                list.Add(new TrendData(trend.Id, $"{line.Path.Split(" › ").LastOrDefault()} · {line.Point}", line.Unit, line.Kind, line.StateTexts, [.. buckets.Select(b => b.From)], [.. buckets.Select(b => Value(b.Least, b))], [.. buckets.Select(b => Value(b.Greatest, b))], [.. buckets.Select(b => Value(b.Last, b))], gap));
            }
            return TypedResults.Ok(list);
        }).For(Role.Viewer);
        api.MapGet("/trends/csv", Results<PushStreamHttpResult, ProblemHttpResult> (string ids, long from, long to, Workspace workspace, HistoryStore history) =>
        {
            var lines = ids.Split(',', StringSplitOptions.RemoveEmptyEntries).Where(RecordId.IsValid).Select(id => workspace.Project.Find<TrendLog>(new RecordId(id))).OfType<TrendLog>().Select(t => Line(workspace.Project, t)).OfType<TrendLine>().Take(12).ToList();
            if (lines.Count == 0) return Problems.Missing("trend");
            DateTimeZone zone = DateTimeZoneProviders.Tzdb.GetZoneOrNull(workspace.Project.Site?.TimeZone ?? "UTC") ?? DateTimeZone.Utc;
            return TypedResults.Stream(async stream =>
            {
                await using var writer = new StreamWriter(stream, new UTF8Encoding(true));
                await writer.WriteLineAsync("time,trend,value,unit,status");
                foreach (TrendLine line in lines)
                {
                    foreach (Sample sample in history.Samples(line.Trend.Id, from, to))
                    {
                        string time = Instant.FromUnixTimeMilliseconds(sample.AtMilliseconds).InZone(zone).ToString("yyyy-MM-dd'T'HH:mm:sso<G>", CultureInfo.InvariantCulture);
                        string value = double.IsNaN(sample.Value) ? "" : line.Kind == PointKind.Analog ? sample.Value.ToString("0.###", CultureInfo.InvariantCulture) : ValueText.Of(sample.Value, line.Kind, null, line.StateTexts);
                        await writer.WriteLineAsync($"{time},{Quote($"{line.Path} › {line.Point}")},{Quote(value)},{line.Unit},{Status(sample.Status)}");
                    }
                }
            }, "text/csv; charset=utf-8", "trends.csv");
        }).For(Role.Viewer);
    }

    private static TrendLog? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<TrendLog>(new RecordId(id)) : null;

    private static TrendLogState StateOf(TrendLog trend, ILink site) =>
        site.LogOf(trend.PointId, trend.Id) is { } log ? new TrendLogState(true, log.HasStopped, log.Taken, log.Holds) : new TrendLogState(false, false, 0, trend.BufferSize);

    private static double? Value(double value, Bucket bucket) => double.IsFinite(value) && (bucket.Status & StatusFlags.Fault) == 0 ? value : double.IsFinite(value) && bucket.Count > 1 ? value : null;

    private static string Status(StatusFlags status) => status == StatusFlags.None ? "ok" : status.ToString().ToLowerInvariant().Replace(", ", " ");

    /// <summary>A CSV field by RFC 4180; a leading sign that a spreadsheet would run as a formula is kept from it.</summary>
    private static string Quote(string text)
    {
        if (text.Length > 0 && text[0] is '=' or '+' or '@' or '-' or '\t' or '\r' && !double.TryParse(text, out _)) text = "'" + text;
        return text.AsSpan().IndexOfAny(",\"\n\r") < 0 ? text : $"\"{text.Replace("\"", "\"\"")}\"";
    }

    private static TrendLine? Line(Project project, TrendLog trend) => project.Find<Point>(trend.PointId) is { } point
        ? new TrendLine(trend, project.FindEntry(trend.Id)!.Revision, point.Id, point.Name, project.PathOf(point.Id), point.Kind, point.Unit, TrendLog.AsKind.Field("changeBy")!.UnitOn(project, trend), point.StateTexts)
        : null;
}
