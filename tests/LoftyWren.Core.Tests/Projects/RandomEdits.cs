using LoftyWren.Core.Fields;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Tests.Projects;

/// <summary>Edits of all sorts, by a seed: some will be refused, which is part of the test.</summary>
internal static class RandomEdits
{
    public static Edit[] Next(Project project, Random random)
    {
        var records = project.Records.OrderBy(r => r.Id).ToList();
        ProjectRecord any = records[random.Next(records.Count)];
        switch (random.Next(20))
        {
            case 0:
                return [Edit.Of(any with { Name = $"{any.Noun} {random.Next(50)}" })];
            case 1 when any is not Place { Kind: PlaceKind.Site }:
                return [.. Removal.Of(project, [any.Id]).Edits];
            case 2:
                return [Edit.Of(new Point { Id = RecordId.New("p"), Name = $"Point {random.Next(1000)}", OwnerId = KilnRoom.Room, Kind = PointKind.Binary, Role = random.Next(2) == 0 ? PointRole.Command : PointRole.Value, StateTexts = ["off", "on"], Fallback = random.Next(2) == 0 ? 0 : null })];
            case 3 when project.All<Sequence>().FirstOrDefault() is { } sequence && sequence.Blocks.Count > 0:
                var choices = new Dictionary<string, string> { ["idle"] = random.Next(2) == 0 ? "off" : "release" };
                return [Edit.Of(sequence with { Blocks = [sequence.Blocks[0] with { Choices = choices }, .. sequence.Blocks.Skip(1)] })];
            case 4 when project.All<Schedule>().FirstOrDefault() is { } schedule:
                return [Edit.Of(schedule with { Default = random.Next(2) == 0 ? null : 0, Drives = [.. schedule.Drives.Select(d => d with { Priority = random.Next(1, 17) })] })];
            case 5 when project.All<Sequence>().FirstOrDefault() is { } sequence:
                return [Edit.Of(sequence with { Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k with { Priority = random.Next(1, 17), Source = random.Next(4) == 0 ? null : k.Source })] })] })];
            case 6 when project.All<Point>().FirstOrDefault(p => p.Role == PointRole.Setpoint) is { } setpoint:
                return [Edit.Of(setpoint with { Fallback = random.Next(3) == 0 ? null : random.Next(15, 30) })];
            case 7 when project.All<Fitting>().OrderBy(f => f.Id).ToList() is { Count: > 0 } fittings:
                Fitting fitting = fittings[random.Next(fittings.Count)];
                if (random.Next(3) == 0) return [Edit.Removing(fitting.Id)];
                string to = random.Next(2) == 0 ? Fitting.MemoryTerminal : $"RO{random.Next(1, 5)}";
                return [Edit.Of(fitting with { Terminal = to, Name = to, Signal = to == Fitting.MemoryTerminal ? Core.Signals.Signal.Memory : Core.Signals.Signal.Relay })];
            case 8 when project.All<Point>().OrderBy(p => p.Id).ToList() is { Count: > 0 } points && project.All<Controller>().FirstOrDefault() is { } controller:
                return [Edit.Of(new Fitting { Id = RecordId.New("f"), Name = Fitting.MemoryTerminal, Terminal = Fitting.MemoryTerminal, Signal = Core.Signals.Signal.Memory, ControllerId = controller.Id, PointId = points[random.Next(points.Count)].Id })];
            case 9 when project.All<Schedule>().FirstOrDefault() is { } schedule && project.All<Point>().Where(p => p.Kind == PointKind.Binary).OrderBy(p => p.Id).ToList() is { Count: > 0 } points:
                RecordId driven = points[random.Next(points.Count)].Id;
                return [Edit.Of(schedule with { Drives = schedule.DrivesOn(driven).Any() ? [.. schedule.Drives.Where(d => d.PointId != driven)] : [.. schedule.Drives, new Drive(driven, random.Next(1, 17))] })];
            case 10 when project.All<Sequence>().OrderBy(s => s.Id).ToList() is { Count: > 0 } sequences:
                Sequence one = sequences[random.Next(sequences.Count)];
                return [Edit.Of(one with { ControllerId = one.ControllerId is null ? project.All<Controller>().FirstOrDefault()?.Id : null })];
            case 11 when project.All<Point>().OrderBy(p => p.Id).ToList() is { Count: > 0 } points:
                Point some = points[random.Next(points.Count)];
                return [Edit.Of(random.Next(2) == 0 ? some with { Description = $"Note {random.Next(100)}" } : some with { SetpointId = some.SetpointId is null ? KilnRoom.Limit : null })];
            case 12 when project.All<Schedule>().FirstOrDefault() is { } schedule:
                return [Edit.Of(random.Next(2) == 0 ? schedule with { Week = random.Next(2) == 0 ? [] : KilnRoom.Project().Find<Schedule>(KilnRoom.Hours)!.Week } : schedule with { Name = $"Hours {random.Next(20)}" })];
            case 13 when project.All<Point>().OrderBy(p => p.Id).ToList() is { Count: > 0 } points && points[random.Next(points.Count)] is { } logged:
                return project.Referrers<TrendLog>(logged.Id).FirstOrDefault() is { } trend
                    ? [Edit.Of(trend with { BufferSize = random.Next(10, 90_000) })]
                    : [Edit.Of(new TrendLog { Id = RecordId.New("t"), Name = logged.Name, PointId = logged.Id, BufferSize = random.Next(10, 90_000) })];
            case 14 when project.All<Controller>().FirstOrDefault() is { } controller:
                return [Edit.Of(controller with { Name = $"KH-C{random.Next(9)}" })];
            // Any field of any kind, as the registry has them, with a text that some record has there or that stands for nothing much.
            case >= 15 and <= 17 when RecordKinds.Of(any).Fields.Where(f => f.IsOf(any) && !f.IsShown).ToList() is { Count: > 0 } fields:
                Field field = fields[random.Next(fields.Count)];
                string[] texts = [.. records.Where(field.IsOf).Select(r => field.Write(project, r)).Concat(field.Choices).Concat(["", "1", "20", "-3", "%", "off · on", "AI", records[random.Next(records.Count)].Id.Value])];
                return [.. CellEdits.Plan(project, [new CellEdit(any.Id, field.Key, texts[random.Next(texts.Length)])]).Edits];
            // A new record of any kind that can begin.
            case 18:
                var kinds = RecordKinds.All.Where(k => k.CanBegin).ToList();
                RecordKind kind = kinds[random.Next(kinds.Count)];
                return [.. CellEdits.Plan(project, [new CellEdit(RecordId.New("n"), "name", $"New {random.Next(1000)}", 0, kind.Key, any.Id)]).Edits];
            default:
                return [Edit.Of(new Equipment { Id = RecordId.New("e"), Name = $"Equipment {random.Next(1000)}", Kind = "other", PlaceId = KilnRoom.Room })];
        }
    }
}
