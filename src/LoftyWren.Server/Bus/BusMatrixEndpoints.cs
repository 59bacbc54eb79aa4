using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Bus;

/// <summary>Group addresses of a room against all that is joined to them.</summary>
public sealed record BusMatrix(IReadOnlyList<MatrixAddress> Addresses, IReadOnlyList<MatrixRow> Rows, bool IsCut);

/// <summary>A column: the address, its name and its datapoint.</summary>
public sealed record MatrixAddress(RecordId Id, string Number, string Name, string Type);

/// <summary>An object, or a point, with what it does under each address: says, hears, both, or answers when it is asked; nothing where it is not joined.</summary>
public sealed record MatrixRow(string Id, RecordId RecordId, string Device, string Object, string Flags, IReadOnlyList<MatrixMark> Marks);

/// <summary>What an object does under an address: its place among the columns, whether it says it (the first address of an object), hears it, and answers whoever asks.</summary>
public sealed record MatrixMark(int Column, bool Says, bool Hears, bool Answers);

/// <summary>Group addresses to be moved by a pattern; see <see cref="AddressPattern"/>.</summary>
public sealed record ShiftRequest(IReadOnlyList<RecordId> Ids, string Pattern, bool Apply = false);

/// <summary>Where an address goes, or why it cannot.</summary>
public sealed record ShiftLine(RecordId Id, string Name, string Was, string? Now, string? Trouble);

/// <summary>What moving addresses comes to: each of them, and who must be written afterwards.</summary>
public sealed record ShiftView(IReadOnlyList<ShiftLine> Lines, IReadOnlyList<string> Devices, IReadOnlyList<string> Controllers, int Troubles);

/// <summary>Timed runs of a blind, and whether what they come to is set.</summary>
public sealed record TravelRequest(string Channel, IReadOnlyList<TimedRun> Runs, bool Apply = false);

internal static class BusMatrixEndpoints
{
    private const int MostColumns = 60, MostRows = 1000;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/bus/matrix/{placeId}", Results<Ok<BusMatrix>, ProblemHttpResult> (string placeId, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(placeId) || project.Find<Place>(new RecordId(placeId)) is not { } place) return Problems.Missing("place");
            List<GroupAddress> all = [.. project.Referrers<Conversation>(place.Id).Where(c => c.PlaceId == place.Id).SelectMany(c => project.Referrers<GroupAddress>(c.Id)).Distinct().OrderBy(g => g.Number)];
            List<GroupAddress> shown = [.. all.Take(MostColumns)];
            var column = shown.Select((g, i) => (g.Id, i)).ToDictionary(x => x.Id, x => x.i);
            var rows = new List<MatrixRow>();
            foreach (BusDevice device in shown.SelectMany(g => project.Referrers<BusDevice>(g.Id)).Distinct().OrderBy(d => d.Name, NaturalOrder.Names))
            {
                if (device.ValuesIn(project)?.Form is not { } form) continue;
                foreach (ObjectJoin join in device.Joins)
                {
                    if (form.FindObject(join.Object) is not { } o || !join.Groups.Any(column.ContainsKey)) continue;
                    rows.Add(new MatrixRow($"{device.Id}|{o.Path}", device.Id, device.Name, device.SaidOf(o, form), o.Flags, [.. join.Groups.Select((g, i) => (g, i)).Where(x => column.ContainsKey(x.g)).Select(x => new MatrixMark(column[x.g], x.i == 0 && o.Sends, o.Hears, x.i == 0 && o.Flags.Contains('R', StringComparison.Ordinal)))]));
                }
            }
            foreach (BusBinding binding in shown.SelectMany(g => project.Referrers<BusBinding>(g.Id)).OrderBy(b => b.Id))
            {
                if (project.Find<Point>(binding.PointId) is { } point) rows.Add(new MatrixRow(binding.Id.Value, point.Id, project.Find(binding.ControllerId)?.Name ?? "", $"{point.Name} (point)", "", [new MatrixMark(column[binding.GroupId], point.Role != PointRole.Sensor, point.Role == PointRole.Sensor, false)]));
            }
            return TypedResults.Ok(new BusMatrix([.. shown.Select(g => new MatrixAddress(g.Id, g.Number.ToString(), g.Name, g.Datapoint))], [.. rows.Take(MostRows)], all.Count > shown.Count || rows.Count > MostRows));
        }).For(Role.Viewer);
        api.MapPost("/bus/groups/shift", Results<Ok<ShiftView>, ProblemHttpResult> (ShiftRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (AddressPattern.Read(request.Pattern) is not { Pattern: { } pattern }) return Problems.Refused(AddressPattern.Read(request.Pattern).Refusal!);
            List<GroupAddress> moved = [.. request.Ids.Distinct().Select(id => project.Find<GroupAddress>(id)).OfType<GroupAddress>().OrderBy(g => g.Number)];
            if (moved.Count == 0) return Problems.Missing("group address");
            var among = moved.Select(g => g.Id).ToHashSet();
            var taken = new Dictionary<GroupNumber, GroupAddress>();
            var lines = new List<ShiftLine>();
            var edits = new List<Edit>();
            foreach (GroupAddress group in moved)
            {
                GroupNumber? to = pattern.Of(group.Number);
                string? trouble = to is not { } now ? "That would be no group address: up to 31, 7 and 255, and not 0/0/0."
                    : GroupAddress.At(project, now) is { } there && !among.Contains(there.Id) ? $"{now} is that of ‘{there.Name}’."
                    : !taken.TryAdd(now, group) ? $"{now} would be that of ‘{taken[now].Name}’ too." : null;
                lines.Add(new ShiftLine(group.Id, group.Name, group.Number.ToString(), to?.ToString(), trouble));
                if (to is { } next && next != group.Number) edits.Add(Edit.Of(group with { Number = next }, project.FindEntry(group.Id)!.Revision));
            }
            var view = new ShiftView(lines, [.. moved.SelectMany(g => project.Referrers<BusDevice>(g.Id)).Distinct().Select(d => d.Name).Order(NaturalOrder.Names)],
                [.. moved.SelectMany(g => project.Referrers<BusBinding>(g.Id)).Select(b => project.Find(b.ControllerId)?.Name).OfType<string>().Distinct().Order(NaturalOrder.Names)], lines.Count(l => l.Trouble is not null));
            if (!request.Apply || edits.Count == 0) return TypedResults.Ok(view);
            if (view.Troubles > 0) return Problems.Refused($"{view.Troubles} of the addresses cannot go there; nothing was moved. {lines.First(l => l.Trouble is not null).Trouble}");
            ChangeOutcome outcome = workspace.Apply(edits, http.User.Identity!.Name!, $"Moved {edits.Count} group addresses by {request.Pattern.Trim()}");
            return outcome.Accepted ? TypedResults.Ok(view) : Problems.Of(outcome);
        }).For(Role.Engineer);
        api.MapPost("/bus/devices/{id}/travel", Results<Ok<TravelMeasure>, ProblemHttpResult> (string id, TravelRequest request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (!RecordId.IsValid(id) || project.Find<BusDevice>(new RecordId(id)) is not { } device || device.ValuesIn(project)?.Form is not { } form) return Problems.Missing("bus device");
            if (form.Find($"{request.Channel}.{BlindBehaviour.DownTimeKey}") is not { } down || form.Find($"{request.Channel}.{BlindBehaviour.UpTimeKey}") is not { } up) return Problems.Refused($"‘{device.Name}’ has no blind ‘{request.Channel}’.");
            TravelMeasure measure = TravelMeasure.Of(request.Runs);
            if (!request.Apply) return TypedResults.Ok(measure);
            if (measure is not { Down: { } downTime, Up: { } upTime }) return Problems.Refused("At least one run each way is needed.");
            foreach (var (parameter, seconds) in ((ParameterForm, double)[])[(down, downTime), (up, upTime)])
            {
                var read = parameter.Is.Read(Parameters.Write(seconds));
                if (read.Refusal is not null) return Problems.Refused(read.Refusal);
                device = device.With(parameter, read.Value);
            }
            ChangeOutcome outcome = workspace.Apply([Edit.Of(device, project.FindEntry(device.Id)!.Revision)], http.User.Identity!.Name!, $"‘{device.ChannelName(form.Channels[down.Channel])}’ of ‘{device.Name}’ takes {downTime} s down and {upTime} s up");
            return outcome.Accepted ? TypedResults.Ok(measure) : Problems.Of(outcome);
        }).For(Role.Engineer);
    }
}
