using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.VirtualSite.Plant;
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

/// <summary>A test as it is written and as it stands, with the revision of the project at which it was run last.</summary>
public sealed record TestView(string Id, string Name, IReadOnlyList<string> Clauses, TestGround On, string Text, TestState State, Proof? Proof, long? Revision);

/// <summary>A name that steps may use, as they write it; only points can be set. Its values have a unit, or are states, as steps write them.</summary>
public sealed record SubjectView(string Name, string Says, bool CanBeSet, string? Unit, IReadOnlyList<string> States);

/// <summary>A kind of step: what it begins with, an example, and what it is made of; see <see cref="TestText.Forms"/>.</summary>
public sealed record StepFormView(string Word, string Example, IReadOnlyList<string> Parts);

/// <summary>The tests of a sequence, with what their steps may be about and the kinds of step.</summary>
public sealed record TestsView(IReadOnlyList<TestView> Tests, IReadOnlyList<SubjectView> Subjects, IReadOnlyList<StepFormView> Forms);

/// <summary>A test made of the words of a clause: its steps, as text too, and whether the sequence as it is passes it.</summary>
public sealed record ProposalView(FunctionTest Test, string Text, bool Passes);

/// <summary>A test as text.</summary>
public sealed record TestTextRequest(string Text);

/// <summary>The steps of a text, and what of it cannot be read.</summary>
public sealed record TestReading(IReadOnlyList<TestStep> Steps, IReadOnlyList<TestProblem> Problems);

/// <summary>How to try a loop: by a relay or by a step, by how many % its output is moved, and what is done before, as the steps of a test.</summary>
public sealed record TuningRequest(TuningWay Way, double By, string Before);

/// <summary>Which tests to run; all where none is named.</summary>
public sealed record TestRunRequest(IReadOnlyList<string>? Tests = null);

/// <summary>Tests of the project: of some sequences, some stories of bus devices, or of all where none is named; those that have changed only, or all.</summary>
public sealed record ProofOrder(IReadOnlyList<RecordId> Sequences, bool OnlyChanged);

/// <summary>How the tests of a sequence stand, and how many of its clauses a test proves that has passed; or how a story stands, with the device or the room that it is told to.</summary>
public sealed record ProofLine(RecordId Id, string Name, string Path, int Tests, int Passed, int Failed, int Stale, int NotRun, int Clauses, int Proven, IReadOnlyList<string> Unasked, RecordId? ToldTo = null, bool ToRoom = false);

/// <summary>A way in which a sequence was broken on purpose: what was done, in which block or output, and the test that noticed.</summary>
public sealed record BreakageView(string What, string Of, string? CaughtBy);

/// <summary>How much of what was broken on purpose the tests noticed; not all ways were tried where that took too long.</summary>
public sealed record BreakingView(IReadOnlyList<BreakageView> Ways, bool All);

internal static class ProofEndpoints
{
    private const int MostText = 20_000;
    private static readonly TimeSpan Longest = TimeSpan.FromSeconds(20);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/proofs", (Workspace workspace, ProofShelf shelf) => Lines(workspace.Project, shelf)).For(Role.Viewer);
        api.MapPost("/proofs", (ProofOrder order, HttpContext http, JobRunner jobs) => jobs.Start(ProofShelf.Job, order.Sequences.Count == 0 ? "Run all tests" : $"Run the tests of {order.Sequences.Count} sequence{(order.Sequences.Count == 1 ? "" : "s")} or stor{(order.Sequences.Count == 1 ? "y" : "ies")}", http.User.Identity!.Name!, order)).For(Role.Technician);
        api.MapPost("/sequences/{id}/tests/break", Results<Ok<BreakingView>, ProblemHttpResult> (string id, Workspace workspace, ProofShelf shelf, TimeProvider clock) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            if (Typing.Of(sequence, workspace.Project).Problems.FirstOrDefault() is { } problem) return Problems.Refused($"The sequence cannot be calculated: {problem.Sentence}");
            try
            {
                return Break(workspace.Project, sequence, shelf.Stands(), clock);
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Technician);
        api.MapGet("/sequences/{id}/tests", Results<Ok<TestsView>, ProblemHttpResult> (string id, Workspace workspace, ProofShelf shelf) =>
            Find(workspace, id) is { } sequence ? TypedResults.Ok(View(workspace.Project, sequence, shelf)) : Problems.Missing("sequence")).For(Role.Viewer);
        api.MapPost("/sequences/{id}/tests/read", Results<Ok<TestReading>, ProblemHttpResult> (string id, TestTextRequest request, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            if (request.Text.Length > MostText) return Problems.Refused($"A test has at most {MostText} characters.");
            var (steps, problems) = TestText.Read(request.Text, new SubjectNames(workspace.Project, sequence));
            return TypedResults.Ok(new TestReading(steps, problems));
        }).For(Role.Engineer);
        api.MapPost("/sequences/{id}/clauses/{clause}/propose", Results<Ok<ProposalView>, ProblemHttpResult> (string id, string clause, Workspace workspace, TimeProvider clock) =>
        {
            if (Find(workspace, id) is not { } sequence || sequence.Clauses.FirstOrDefault(c => c.Id == clause) is not { } asked) return Problems.Missing("clause");
            Project project = workspace.Project;
            long began = clock.GetTimestamp();
            if (Proposing.Of(project, sequence, asked, RecordId.New("test").Value, () => clock.GetElapsedTime(began) > Longest) is not { } proposal)
                return Problems.Refused("Its words name nothing that can be set and nothing that must follow. Say of which output it speaks (runs, opens, is shut) and from what (above 29 °C, while somebody is there), or write the test yourself.");
            return TypedResults.Ok(new ProposalView(proposal.Test, TestText.Write(proposal.Test.Steps, new SubjectNames(project, sequence)), proposal.Passes));
        }).For(Role.Engineer);
        api.MapPost("/sequences/{id}/tuning/{block}", Results<Ok<Tuned>, ProblemHttpResult> (string id, string block, TuningRequest request, Workspace workspace, TimeProvider clock) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            if (request.Before.Length > MostText) return Problems.Refused($"What is done before has at most {MostText} characters.");
            Project project = workspace.Project;
            var (steps, problems) = TestText.Read(request.Before, new SubjectNames(project, sequence));
            if (problems is [var wrong, ..]) return Problems.Refused($"Line {wrong.Line}, character {wrong.At + 1}: {wrong.Sentence}");
            if (steps.Sum(s => s.Seconds) > 86_400) return Problems.Refused("What is done before lasts at most a day.");
            long began = clock.GetTimestamp();
            try
            {
                return TypedResults.Ok(LoopTuning.Try(project, sequence, block, request.Way, request.By, steps, image => new BenchPlant(project, [.. image.Records.OfType<Point>()]), () => clock.GetElapsedTime(began) > Longest));
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapPost("/sequences/{id}/tests/run", Results<Ok<TestsView>, ProblemHttpResult> (string id, TestRunRequest request, Workspace workspace, ProofShelf shelf, TimeProvider clock) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            Project project = workspace.Project;
            if (Typing.Of(sequence, project).Problems.FirstOrDefault() is { } problem) return Problems.Refused($"The sequence cannot be calculated: {problem.Sentence}");
            long began = clock.GetTimestamp();
            TestStands stands = shelf.Stands();
            // What would take too long is left as it was, rather than keeping whoever asks waiting.
            foreach (FunctionTest test in sequence.Tests.Where(t => request.Tests is null || request.Tests.Contains(t.Id)).TakeWhile(_ => clock.GetElapsedTime(began) < Longest))
                shelf.Prove(project, sequence, test, stands, Longest);
            return TypedResults.Ok(View(project, sequence, shelf));
        }).For(Role.Technician);
    }

    private static Results<Ok<BreakingView>, ProblemHttpResult> Break(Project project, Sequence sequence, TestStands stands, TimeProvider clock)
    {
        if (sequence.Tests.FirstOrDefault(t => t.On != TestGround.Site && !ProofBench.Prove(project, sequence, t, stands.For(project, sequence, t)).Passed) is { } failing) return Problems.Refused($"‘{failing.Name}’ fails as it is, so it says nothing of what is broken. Mend it first.");
        long began = clock.GetTimestamp();
        var ways = new List<BreakageView>();
        foreach (Breakage way in Breaking.Ways(project, sequence))
        {
            if (clock.GetElapsedTime(began) > Longest) return TypedResults.Ok(new BreakingView(ways, false));
            ways.Add(new BreakageView(way.What, way.Of, Breaking.CaughtBy(project, way, stands)?.Name));
        }
        return TypedResults.Ok(new BreakingView(ways, true));
    }

    private static List<ProofLine> Lines(Project project, ProofShelf shelf)
    {
        var kept = shelf.All();
        TestStands stands = shelf.Stands();
        return [.. project.All<Sequence>().Where(s => s.Tests.Count + s.Clauses.Count > 0).OrderBy(s => s.Name, Core.Names.NaturalOrder.Names).Select(s =>
        {
            var states = s.Tests.Select(t => (Test: t, State: shelf.StateOf(s, t, kept.GetValueOrDefault((s.Id.Value, t.Id)), stands))).ToList();
            int count(TestState state) => states.Count(x => x.State == state);
            var proven = states.Where(x => x.State == TestState.Passed).SelectMany(x => x.Test.Clauses).ToHashSet();
            return new ProofLine(s.Id, s.Name, project.PathOf(s.Id), s.Tests.Count, count(TestState.Passed), count(TestState.Failed), count(TestState.Stale), count(TestState.NotRun), s.Clauses.Count, s.Clauses.Count(c => proven.Contains(c.Id)), [.. SequenceChecks.Unasked(s).Select(b => b.Called())]);
        }), .. shelf.Stories(kept).Select(s => new ProofLine(s.Story.Id, s.Story.Name, project.PathOf(s.Story.Id), 1, s.State == TestState.Passed ? 1 : 0, s.State == TestState.Failed ? 1 : 0, s.State == TestState.Stale ? 1 : 0, s.State == TestState.NotRun ? 1 : 0, 0, 0, [], s.Story.OwnerId, project.Find<Place>(s.Story.OwnerId) is not null))];
    }

    private static Sequence? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Sequence>(new RecordId(id)) : null;

    private static TestsView View(Project project, Sequence sequence, ProofShelf shelf)
    {
        var names = new SubjectNames(project, sequence);
        var kept = shelf.Of(sequence.Id);
        return new TestsView(
            [.. sequence.Tests.Select(t => (Test: t, Kept: kept.GetValueOrDefault(t.Id))).Select(t => new TestView(t.Test.Id, t.Test.Name, t.Test.Clauses, t.Test.On, TestText.Write(t.Test.Steps, names), shelf.StateOf(sequence, t.Test, t.Kept, shelf.Stands()), ProofShelf.StoryOf(t.Kept), t.Kept?.Revision))],
            [.. names.Subjects.Select(s => new SubjectView(s.Name, names.Of(s.Subject), s.CanBeSet, s.Form.Unit, s.Form.Kind == PointKind.Analog ? [] : [.. s.Form.StateTexts.Select((_, i) => SubjectNames.Say(s.Form, s.Form.Kind == PointKind.Binary ? i : i + 1))]))],
            [.. TestText.Forms.Select(f => new StepFormView(f.Word, f.Example, f.Parts))]);
    }
}
