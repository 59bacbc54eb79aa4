using System.Text.Json;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Proofs;

namespace LoftyWren.Server.Sequences;

/// <summary>How tests went when they were run last, with what each rested on and at which revision; kept with the project.</summary>
internal sealed class ProofShelf(Workspace workspace, ProofStore store, IVirtualSite site, TimeProvider clock)
{
    // What each test of a sequence rests on, kept until an edit touches that.
    private readonly Kept<IReadOnlyDictionary<string, string>> _rests = new(workspace, (project, id) => project.Find<Sequence>(id) is { } sequence ? sequence.Tests.GroupBy(t => t.Id).ToDictionary(g => g.Key, g => ProofBench.Rests(project, sequence, g.First(), new TestStands(site).RestsOn(project, sequence, g.First()))) : new Dictionary<string, string>());

    // A story is a test of the bus devices that it is told to.
    private const string Told = "told";
    private readonly Kept<string> _storyRests = new(workspace, (project, id) => project.Find<Story>(id)?.Rests(project) ?? "");

    /// <summary>Runs the tests of several sequences and tells stories of bus devices, or all of both.</summary>
    public static JobKind<ProofOrder> Job { get; } = new("proofs", (services, _, order) => new JobWork(job =>
    {
        var shelf = services.GetRequiredService<ProofShelf>();
        Project project = services.GetRequiredService<Workspace>().Project;
        TestStands stands = shelf.Stands();
        var kept = shelf.All();
        foreach (var (sequence, test) in kept.Keys.Where(k => project.Find(new RecordId(k.Sequence)) switch { Sequence s => s.Tests.All(t => t.Id != k.Test), Story => false, _ => true })) shelf.Forget(sequence, test);
        var tests = project.All<Sequence>().Where(s => order.Sequences.Count == 0 || order.Sequences.Contains(s.Id)).OrderBy(s => s.Name, Core.Names.NaturalOrder.Names)
            .Where(s => Typing.Of(s, project).Problems.Count == 0).SelectMany(s => s.Tests.Select(t => (Sequence: s, Test: t)))
            .Where(t => !order.OnlyChanged || shelf.StateOf(t.Sequence, t.Test, kept.GetValueOrDefault((t.Sequence.Id.Value, t.Test.Id)), stands) is TestState.NotRun or TestState.Stale).ToList();
        var stories = project.All<Story>().Where(s => s.Expectations.Count > 0 && (order.Sequences.Count == 0 || order.Sequences.Contains(s.Id))).OrderBy(s => s.Name, Core.Names.NaturalOrder.Names)
            .Where(s => !order.OnlyChanged || shelf.StateOf(s, kept.GetValueOrDefault((s.Id.Value, Told))) is TestState.NotRun or TestState.Stale).ToList();
        int done = 0, failed = 0, all = Math.Max(1, tests.Count + stories.Count);
        foreach (var (sequence, test) in tests)
        {
            job.Report(done++, all, $"{sequence.Name}: {test.Name}");
            if (!shelf.Prove(project, sequence, test, stands, TimeSpan.FromMinutes(5), job.Stop).Passed) failed++;
        }
        foreach (Story story in stories)
        {
            job.Report(done++, all, $"{project.PathOf(story.Id)}: {story.Name}");
            if (!shelf.Prove(project, story, job.Stop)) failed++;
        }
        return Task.FromResult($"{done} run; {(failed == 0 ? "all passed" : $"{failed} failed")}.");
    }, "What was run is kept; resume to run all again."));

    /// <summary>Tells a story and keeps whether all came of it that must; one that cannot be told has failed.</summary>
    private bool Prove(Project project, Story story, CancellationToken stop)
    {
        IReadOnlyList<StoryVerdict> verdicts;
        try
        {
            verdicts = story.Tell(project, stop).Verdicts;
        }
        catch (InvalidOperationException e)
        {
            verdicts = [.. story.Expectations.Take(1).Select(x => new StoryVerdict(x, null, false, e.Message))];
        }
        stop.ThrowIfCancellationRequested();
        bool passed = verdicts.All(v => v.Passed);
        store.Keep(new KeptProof(story.Id.Value, Told, story.Rests(project), project.Revision, clock.GetUtcNow().ToUnixTimeMilliseconds(), passed, JsonSerializer.Serialize(verdicts, RecordJson.Options)));
        return passed;
    }

    /// <summary>How a story stands, given how it went last.</summary>
    public TestState StateOf(Story story, KeptProof? kept) => kept is null ? TestState.NotRun : _storyRests.Of(story.Id) != kept.Rests ? TestState.Stale : kept.Passed ? TestState.Passed : TestState.Failed;

    /// <summary>How all stories stand that say what must come of them.</summary>
    public IReadOnlyList<(Story Story, TestState State)> Stories(IReadOnlyDictionary<(string Sequence, string Test), KeptProof> kept) =>
        [.. workspace.Project.All<Story>().Where(s => s.Expectations.Count > 0).OrderBy(s => s.Name, Core.Names.NaturalOrder.Names).Select(s => (s, StateOf(s, kept.GetValueOrDefault((s.Id.Value, Told)))))];

    /// <summary>What tests that are run together are lived on.</summary>
    public TestStands Stands() => new(site);

    /// <summary>Runs a test and keeps how it went; one that takes longer than it may has failed.</summary>
    public Proof Prove(Project project, Sequence sequence, FunctionTest test, TestStands stands, TimeSpan most, CancellationToken stop = default)
    {
        long began = clock.GetTimestamp();
        Proof proof;
        try
        {
            proof = ProofBench.Prove(project, sequence, test, stands.For(project, sequence, test), () => stop.IsCancellationRequested || clock.GetElapsedTime(began) > most);
        }
        catch (InvalidOperationException e)
        {
            proof = new Proof(false, [new ProvenStep("before it begins", 0, false, e.Message, null)], new BlockStory(1, []));
        }
        // What was stopped says nothing.
        stop.ThrowIfCancellationRequested();
        store.Keep(new KeptProof(sequence.Id.Value, test.Id, Rests(ProofBench.Rests(project, sequence, test, stands.RestsOn(project, sequence, test)), sequence, test, stands), project.Revision, clock.GetUtcNow().ToUnixTimeMilliseconds(), proof.Passed, JsonSerializer.Serialize(proof, RecordJson.Options)));
        return proof;
    }

    private static string Rests(string drawn, Sequence sequence, FunctionTest test, TestStands stands) => stands.Installed(sequence, test) is { Length: > 0 } runs ? $"{drawn}/{runs}" : drawn;

    /// <summary>How the tests of a sequence went, by test.</summary>
    public IReadOnlyDictionary<string, KeptProof> Of(RecordId sequence) => store.Of(sequence.Value).ToDictionary(p => p.Test);

    /// <summary>How all tests went, without their stories.</summary>
    public IReadOnlyDictionary<(string Sequence, string Test), KeptProof> All() => store.All().ToDictionary(p => (p.Sequence, p.Test));

    /// <summary>How a test of the project as it is now stands, given how it went last.</summary>
    public TestState StateOf(Sequence sequence, FunctionTest test, KeptProof? kept, TestStands stands) =>
        kept is null ? TestState.NotRun : Rests(_rests.Of(sequence.Id).GetValueOrDefault(test.Id) ?? "", sequence, test, stands) != kept.Rests ? TestState.Stale : kept.Passed ? TestState.Passed : TestState.Failed;

    private void Forget(string sequence, string test) => store.Forget(sequence, test);

    /// <summary>The story of a test that was run.</summary>
    public static Proof? StoryOf(KeptProof? kept) => kept is { Story.Length: > 0 } ? JsonSerializer.Deserialize<Proof>(kept.Story, RecordJson.Options) : null;
}
