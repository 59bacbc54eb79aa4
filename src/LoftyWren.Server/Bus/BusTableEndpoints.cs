using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Names;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Bus;

/// <summary>Which table: of all devices of a description the channels of one sort (empty: the devices as a whole) where device, name, place or a value has some words, and the parameters that hold some words; without words those that differ somewhere.</summary>
public sealed record TableQuery(string DescriptionId, string Sort = "", string Words = "", string Rows = "");

/// <summary>A parameter as a column.</summary>
public sealed record ParameterColumn(string Key, string Label, ParameterSort Sort, IReadOnlyList<ParameterChoice>? Choices, string? Unit, string? Help);

/// <summary>A channel of a device as a row.</summary>
public sealed record ParameterRow(RecordId DeviceId, string Channel, string Device, string Name, string Path, IReadOnlyList<ParameterCell> Cells);

/// <summary>A value in the table: whether it is in force, and whether it was set.</summary>
public sealed record ParameterCell(string Value, string Said, bool IsThere, bool Differs);

/// <summary>The table; of more rows than are shown, how many there are. The sorts of channels that the description has.</summary>
public sealed record ParameterTable(IReadOnlyList<ParameterColumn> Columns, IReadOnlyList<ParameterRow> Rows, int All, IReadOnlyList<ChannelSort> Sorts);

/// <summary>A sort of channels: its key and what one of them is called.</summary>
public sealed record ChannelSort(string Key, string Title);

/// <summary>Rows that get a value: one parameter of many channels and devices, in one change.</summary>
public sealed record TableSet(string Key, string? Text, IReadOnlyList<RowChosen> Rows);

/// <summary>A row by its device and channel.</summary>
public sealed record RowChosen(RecordId DeviceId, string Channel);

/// <summary>Parameters of many devices of one description as a table.</summary>
internal static class BusTableEndpoints
{
    private const int MostRows = 5000, MostColumns = 8;

    public static void Map(RouteGroupBuilder api)
    {
        api.MapPost("/bus/table", Results<Ok<ParameterTable>, ProblemHttpResult> (TableQuery query, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (DescriptionShelf.Find(project, query.DescriptionId) is not { } description) return Problems.Refused($"The bus library has no device ‘{query.DescriptionId}’.");
            DeviceForm form = description.Form;
            ChannelSort[] sorts = [.. (description.Pages.Count > 0 ? new[] { new ChannelSort("", "The device") } : []).Concat(description.Channels.Where(c => c.Behaviour != "device").Select(c => new ChannelSort(c.Key, c.Title.Replace(" {n}", "", StringComparison.Ordinal).Replace(" {letter}", "", StringComparison.Ordinal))))];
            var rows = project.All<BusDevice>().Where(d => d.DescriptionId == description.Id).OrderBy(d => d.AddressIn(project)?.Raw ?? ushort.MaxValue).ThenBy(d => d.Name, NaturalOrder.Names)
                .SelectMany(d => ChannelsOf(form, query.Sort).Select(c => (Device: d, Channel: c))).ToList();
            var first = form.Parameters.Where(p => IsOf(form, p, query.Sort) && (p.Channel < 0 || form.Channels[p.Channel].Number == 1)).ToList();
            string[] words = query.Words.Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
            var differing = words.Length > 0 ? [] : rows.Select(r => r.Device).Distinct().SelectMany(d => d.Settings).Select(s => form.Find(s.Path)).OfType<ParameterForm>().Where(p => IsOf(form, p, query.Sort)).Select(p => p.Is.Key).ToHashSet();
            List<ParameterForm> columns = [.. first.Where(p => words.Length > 0 ? Array.TrueForAll(words, w => $"{p.Is.Label} {p.Is.Help} {form.Pages[p.Page].Title}".Contains(w, StringComparison.OrdinalIgnoreCase)) : differing.Contains(p.Is.Key)).Take(MostColumns)];
            if (columns.Count == 0) columns = [.. first.Take(MostColumns)];
            // Without words the rows beyond those shown are only counted.
            string[] named = query.Rows.Split(' ', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries);
            List<ParameterRow> shown = [.. (named.Length == 0 ? rows.Take(MostRows) : rows).Select(Row).Where(r => named.Length == 0 || Has(r, named))];
            return TypedResults.Ok(new ParameterTable([.. columns.Select(p => new ParameterColumn(p.Is.Key, p.Is.Label!, p.Is.Sort!.Value, p.Is.Choices, p.Is.SaidUnit, p.Is.Help))], [.. shown.Take(MostRows)], named.Length == 0 ? rows.Count : shown.Count, sorts));

            ParameterRow Row((BusDevice Device, int Channel) r)
            {
                DeviceValues values = r.Device.ValuesIn(project)!;
                return new ParameterRow(r.Device.Id, r.Channel < 0 ? "" : form.Channels[r.Channel].Key, r.Device.Name, r.Channel < 0 ? "" : r.Device.ChannelName(form.Channels[r.Channel]), project.PathOf(r.Device.Id), [.. columns.Select(c =>
                {
                    ParameterForm p = form.Parameters[form.ParameterAt(r.Channel, c.Is.Key)];
                    string value = values.SetOf(p) ?? p.Is.Begins;
                    return new ParameterCell(value, p.Is.Say(value), values.IsThere(p), value != p.Is.Begins);
                })]);
            }
        }).For(Role.Viewer);
        api.MapPost("/bus/table/set", Results<Ok<ChangeAnswer>, ProblemHttpResult> (TableSet request, HttpContext http, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (request.Rows.Count is 0 or > MostRows) return Problems.Refused($"1 to {MostRows} rows are set at once, not {request.Rows.Count}.");
            var devices = new Dictionary<RecordId, BusDevice>();
            string label = "";
            foreach (RowChosen row in request.Rows)
            {
                if (!devices.TryGetValue(row.DeviceId, out BusDevice? device) && (device = project.Find<BusDevice>(row.DeviceId)) is null) return Problems.Missing("bus device");
                if (device.ValuesIn(project)?.Form.Find(row.Channel.Length == 0 ? request.Key : $"{row.Channel}.{request.Key}") is not { } parameter) return Problems.Refused($"‘{device.Name}’ has no parameter ‘{request.Key}’ at {row.Channel}.");
                var read = string.IsNullOrWhiteSpace(request.Text) ? (Value: null, Refusal: null) : parameter.Is.Read(request.Text);
                if (read.Refusal is not null) return Problems.Refused(read.Refusal);
                devices[row.DeviceId] = device.With(parameter, read.Value);
                label = $"{parameter.Is.Label} is {parameter.Is.Say(read.Value ?? parameter.Is.Begins)} at {request.Rows.Count} channels";
            }
            return ProjectEndpoints.Answer(workspace.Apply([.. devices.Values.Select(d => Edit.Of(d, project.FindEntry(d.Id)!.Revision))], http.User.Identity!.Name!, label));
        }).For(Role.Engineer);
    }

    private static bool Has(ParameterRow row, string[] words)
    {
        string text = $"{row.Device} {row.Name} {row.Path} {string.Join(' ', row.Cells.Select(c => c.Said))}";
        return Array.TrueForAll(words, w => text.Contains(w, StringComparison.OrdinalIgnoreCase));
    }

    private static IEnumerable<int> ChannelsOf(DeviceForm form, string sort) => sort.Length == 0 ? [-1] : Enumerable.Range(0, form.Channels.Count).Where(c => form.Channels[c].Is.Key == sort);

    private static bool IsOf(DeviceForm form, ParameterForm p, string sort) => sort.Length == 0 ? p.Channel < 0 : p.Channel >= 0 && form.Channels[p.Channel].Is.Key == sort;
}
