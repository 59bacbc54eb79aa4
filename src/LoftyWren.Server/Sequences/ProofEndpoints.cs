using System.Collections.Concurrent;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>How a test stands.</summary>
public enum TestState
{
    /// <summary>Nobody has run it since the program started.</summary>
    NotRun,
    /// <summary>All that it expects came true.</summary>
    Passed,
    /// <summary>Something did not.</summary>
    Failed,
    /// <summary>It was run, but something that it rests on has changed since.</summary>
    Stale,
}

/// <summary>A test as it is written and as it stands.</summary>
public sealed record TestView(string Id, string Name, IReadOnlyList<string> Clauses, string Text, TestState State, Proof? Proof);

/// <summary>A name that steps may use; only points can be set.</summary>
public sealed record SubjectView(string Name, bool CanBeSet);

/// <summary>The tests of a sequence, with what their steps may be about and an example of each kind of step.</summary>
public sealed record TestsView(IReadOnlyList<TestView> Tests, IReadOnlyList<SubjectView> Subjects, IReadOnlyList<string> Examples);

/// <summary>A test as text.</summary>
public sealed record TestTextRequest(string Text);

/// <summary>The steps of a text, and what of it cannot be read.</summary>
public sealed record TestReading(IReadOnlyList<TestStep> Steps, IReadOnlyList<TestProblem> Problems);

/// <summary>Which tests to run; all where none is named.</summary>
public sealed record TestRunRequest(IReadOnlyList<string>? Tests = null);

/// <summary>How tests went when they were run last, with what each rested on.</summary>
internal sealed class ProofShelf
{
    private const int MostKept = 5000;
    private readonly ConcurrentDictionary<(RecordId, string), (string Rests, Proof Proof)> _proofs = new();

    public void Keep(RecordId sequence, string test, string rests, Proof proof)
    {
        if (_proofs.Count >= MostKept) _proofs.Clear();
        _proofs[(sequence, test)] = (rests, proof);
    }

    public (TestState State, Proof? Proof) Find(Project project, Sequence sequence, FunctionTest test)
    {
        if (!_proofs.TryGetValue((sequence.Id, test.Id), out var kept)) return (TestState.NotRun, null);
        return (kept.Rests != ProofBench.Rests(project, sequence, test) ? TestState.Stale : kept.Proof.Passed ? TestState.Passed : TestState.Failed, kept.Proof);
    }
}

internal static class ProofEndpoints
{
    private const int MostText = 20_000;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(20);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/sequences/{id}/tests", Results<Ok<TestsView>, ProblemHttpResult> (string id, Workspace workspace, ProofShelf shelf) =>
            Find(workspace, id) is { } sequence ? TypedResults.Ok(View(workspace.Project, sequence, shelf)) : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapPost("/sequences/{id}/tests/read", Results<Ok<TestReading>, ProblemHttpResult> (string id, TestTextRequest request, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            if (request.Text.Length > MostText) return Problems.Refused($"A test has at most {MostText} characters.");
            var (steps, problems) = TestText.Read(request.Text, new SubjectNames(workspace.Project, sequence));
            return TypedResults.Ok(new TestReading(steps, problems));
        }).For(Role.Engineer);
        api.MapPost("/sequences/{id}/tests/run", Results<Ok<TestsView>, ProblemHttpResult> (string id, TestRunRequest request, Workspace workspace, ProofShelf shelf, TimeProvider clock) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            Project project = workspace.Project;
            if (Typing.Of(sequence, project).Problems.FirstOrDefault() is { } problem) return Problems.Refused($"The sequence cannot be calculated: {problem.Sentence}");
            long began = clock.GetTimestamp();
            // What would take too long is left as it was, rather than keeping whoever asks waiting.
            foreach (FunctionTest test in sequence.Tests.Where(t => request.Tests is null || request.Tests.Contains(t.Id)).TakeWhile(_ => clock.GetElapsedTime(began) < Longest))
                shelf.Keep(sequence.Id, test.Id, ProofBench.Rests(project, sequence, test), ProofBench.Prove(project, sequence, test));
            return TypedResults.Ok(View(project, sequence, shelf));
        }).For(Role.Technician);
    }

    private static Sequence? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Sequence>(new RecordId(id)) : null;

    private static TestsView View(Project project, Sequence sequence, ProofShelf shelf)
    {
        var names = new SubjectNames(project, sequence);
        return new TestsView(
            [.. sequence.Tests.Select(t => (Test: t, Kept: shelf.Find(project, sequence, t))).Select(t => new TestView(t.Test.Id, t.Test.Name, t.Test.Clauses, TestText.Write(t.Test.Steps, names), t.Kept.State, t.Kept.Proof))],
            [.. names.All.Select(n => new SubjectView(n.Name, n.CanBeSet))], TestText.Examples);
    }
}
