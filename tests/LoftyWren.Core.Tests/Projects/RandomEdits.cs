using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Core.Tests.Projects;

/// <summary>Edits of all sorts, by a seed: some will be refused, which is part of the test.</summary>
internal static class RandomEdits
{
    public static Edit[] Next(Project project, Random random)
    {
        var records = project.Records.OrderBy(r => r.Id).ToList();
        ProjectRecord any = records[random.Next(records.Count)];
        switch (random.Next(7))
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
            default:
                return [Edit.Of(new Equipment { Id = RecordId.New("e"), Name = $"Equipment {random.Next(1000)}", Kind = "other", PlaceId = KilnRoom.Room })];
        }
    }
}
