using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server;

/// <summary>What was sent cannot be understood; the message says what and where.</summary>
public sealed class MalformedException(string message) : Exception(message);

/// <summary>Answers that say why not: RFC 9457 problem details whose detail a technician can act on.</summary>
public static class Problems
{
    /// <summary>What was asked cannot be done; 422.</summary>
    public static ProblemHttpResult Refused(string detail) => TypedResults.Problem(detail, statusCode: 422, title: "Not done");

    /// <summary>What was asked for is not there; 404.</summary>
    public static ProblemHttpResult Missing(string what) => TypedResults.Problem($"This {what} is not in the project. It may have been removed; go back and look again.", statusCode: 404, title: "Not there");

    /// <summary>What an act answers; where it is refused, or nobody answers at the other end, why.</summary>
    public static async Task<Results<Ok<T>, ProblemHttpResult>> Try<T>(Func<Task<T>> act)
    {
        try
        {
            return TypedResults.Ok(await act());
        }
        catch (Exception e) when (e is InvalidOperationException or ContactLostException)
        {
            return Refused(e.Message);
        }
    }

    /// <summary>A change set that was refused (422, with each reason) or met another's edit (409, with both versions).</summary>
    public static ProblemHttpResult Of(ChangeOutcome outcome)
    {
        if (outcome.Conflicts.Count > 0)
        {
            return TypedResults.Problem(
                $"Somebody else has changed ‘{(outcome.Conflicts[0].Theirs ?? outcome.Conflicts[0].Yours)?.Name}’ since you saw it. Look at both versions and choose.",
                statusCode: 409, title: "Changed meanwhile", extensions: new Dictionary<string, object?> { ["conflicts"] = outcome.Conflicts });
        }
        return Of(outcome.Refusals);
    }

    /// <summary>Reasons, the first as the detail and all of them beside it.</summary>
    public static ProblemHttpResult Of(IReadOnlyList<Refusal> refusals) => TypedResults.Problem(
        string.Join(" ", refusals.Take(3).Select(r => r.Sentence).Distinct()), statusCode: 422, title: "Not done",
        extensions: new Dictionary<string, object?> { ["refusals"] = refusals });
}
