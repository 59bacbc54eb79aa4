using LoftyWren.Core.Projects;
using LoftyWren.Server.Jobs;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Projects;

/// <summary>Edits worked out, with the label of their change set; or a sentence why nothing is done. The outcome, where planning has come to it, is not worked out again.</summary>
internal sealed record PlannedEdits(IReadOnlyList<Edit> Edits, string Label, string? Refusal = null, PlannedOutcome? Outcome = null);

/// <summary>
/// A large edit: worked out step by step, then applied as one change set. It can be answered at once or run as a job with
/// progress and a stop; either way nothing is written before the last step, so a stop leaves the project as it was.
/// </summary>
internal sealed class PlannedEdit(Workspace workspace, string who, Func<Action<int, int, string>?, PlannedEdits> plan)
{
    /// <summary>Works it out, applies it and answers.</summary>
    public Results<Ok<ChangeAnswer>, ProblemHttpResult> Now()
    {
        PlannedEdits planned = plan(null);
        return planned.Refusal is { } refusal ? Problems.Refused(refusal) : ProjectEndpoints.Answer(workspace.Apply(planned.Edits, who, planned.Label, planned: planned.Outcome));
    }

    /// <summary>It as the work of a job; refusals are its message.</summary>
    public JobWork AsWork() => new(job =>
    {
        PlannedEdits planned = plan(job.Report);
        if (planned.Refusal is { } refusal) throw new InvalidOperationException(refusal);
        job.Report(job.Done, job.Total, $"Writing {planned.Edits.Count:N0} records");
        ChangeOutcome outcome = workspace.Apply(planned.Edits, who, planned.Label, planned: planned.Outcome);
        return outcome.Entry is { } entry ? Task.FromResult(entry.Label) : throw new InvalidOperationException(string.Join(" ", outcome.Refusals.Take(3).Select(r => r.Sentence).DefaultIfEmpty("Somebody else has changed the same records. Look at a new preview and try again.").Append("Nothing was changed.")));
    }, "Nothing was changed; resume to begin it again.");
}
