using LoftyWren.Core.Claims;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Projects;

namespace LoftyWren.Server.Sequences;

/// <summary>What is derived of sequences and of the outputs they command: what every line carries, and who claims an output at which priority. Kept until an edit touches what it rests on.</summary>
public sealed class SequenceFacts(Workspace workspace)
{
    private readonly Kept<Typing?> _typing = new(workspace, (project, id) => project.Find<Sequence>(id) is { } sequence ? Typing.Of(sequence, project) : null);
    private readonly Kept<IReadOnlyList<ClaimDesign>> _claims = new(workspace, ClaimsOn);

    /// <summary>What every line of a sequence carries; null when it is not in the project any more.</summary>
    public Typing? TypingOf(RecordId sequence) => _typing.Of(sequence);

    /// <summary>All claims on an output, strongest first.</summary>
    public IReadOnlyList<ClaimDesign> ClaimsOn(RecordId point) => _claims.Of(point);

    private static IReadOnlyList<ClaimDesign> ClaimsOn(Project project, RecordId point)
    {
        var claims = new List<ClaimDesign>();
        foreach (Sequence sequence in project.Referrers<Sequence>(point))
            claims.AddRange(sequence.Commands.Where(c => c.PointId == point).SelectMany(c => c.Claims).Select(c => new ClaimDesign(c.Priority, string.IsNullOrWhiteSpace(c.Label) ? sequence.Name : c.Label, sequence.Id)));
        foreach (Schedule schedule in project.Referrers<Schedule>(point))
            claims.AddRange(schedule.Drives.Where(d => d.PointId == point).Select(d => new ClaimDesign(d.Priority, schedule.Name, schedule.Id)));
        if (project.Find<Point>(point) is { HasLeastTimes: true }) claims.Add(new ClaimDesign(Ladder.LeastTimes, "Least times", point));
        return [.. claims.OrderBy(c => c.Priority)];
    }
}

/// <summary>One claim on an output as designed: its priority, what the ladder calls it, and the sequence or schedule whose it is.</summary>
public sealed record ClaimDesign(int Priority, string Label, RecordId OwnerId);
