using LoftyWren.Server.Jobs;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Jobs;

namespace LoftyWren.Server.Tests;

public class JobRunnerTests
{
    private readonly JobRunner _jobs = new();

    [Fact]
    public async Task Work_tells_its_progress_and_its_end()
    {
        var seen = new List<(int, JobState)>();
        _jobs.Moved += job =>
        {
            lock (seen) seen.Add((job.Done, job.State));
        };
        JobView job = _jobs.Start("count", "Count to three", "engineer", context =>
        {
            for (int i = 1; i <= 3; i++) context.Report(i, 3, $"{i}");
            return Task.FromResult("Counted.");
        });
        JobView end = await _jobs.Finish(job.Id);
        Assert.Equal((JobState.Done, 3, 3, "Counted.", "engineer"), (end.State, end.Done, end.Total, end.Message, end.StartedBy));
        Assert.Contains((2, JobState.Running), seen);
    }

    [Fact]
    public async Task Stopped_it_can_be_resumed_where_it_stopped()
    {
        int reached = 0;
        JobView job = _jobs.Start("count", "Count", "engineer", async context =>
        {
            for (; reached < 50; reached++)
            {
                context.Report(reached, 50, "counting");
                await Task.Delay(20, context.Stop);
            }
            return "Counted.";
        });
        while (reached < 3) await Task.Delay(5);
        Assert.True(_jobs.Stop(job.Id));
        JobView stopped = await _jobs.Finish(job.Id);
        Assert.Equal(JobState.Stopped, stopped.State);
        Assert.Contains("resume to go on from there", stopped.Message);
        Assert.False(_jobs.Stop(job.Id));
        int at = reached;
        Assert.True(_jobs.Resume(job.Id));
        Assert.Equal(JobState.Done, (await _jobs.Finish(job.Id)).State);
        Assert.InRange(at, 3, 49);
        Assert.Equal(50, reached);
        Assert.False(_jobs.Resume(job.Id));
    }

    [Fact]
    public async Task A_failure_says_why_and_can_be_tried_again()
    {
        int tries = 0;
        JobView job = _jobs.Start("try", "Try", "engineer", _ => ++tries < 2 ? throw new InvalidOperationException("The trunk is cut.") : Task.FromResult("Done at last."));
        Assert.Equal((JobState.Failed, "The trunk is cut."), ((await _jobs.Finish(job.Id)).State, _jobs.All[0].Message));
        Assert.True(_jobs.Resume(job.Id));
        Assert.Equal("Done at last.", (await _jobs.Finish(job.Id)).Message);
    }

    [Fact]
    public void What_is_not_there_cannot_be_stopped() => Assert.False(_jobs.Stop("no-such") || _jobs.Resume("no-such"));

    [Fact]
    public async Task A_job_says_who_may_stop_it_and_what_a_stop_leaves()
    {
        using var go = new SemaphoreSlim(0);
        JobView job = _jobs.Start("edit", "Edit", "engineer", async context =>
        {
            await go.WaitAsync(context.Stop);
            return "Done.";
        }, "Nothing was changed; resume to begin it again.", Role.Engineer);
        Assert.False(_jobs.Allows(job.Id, Role.Technician));
        Assert.True(_jobs.Allows(job.Id, Role.Engineer) && _jobs.Allows(job.Id, Role.Administrator));
        _jobs.Stop(job.Id);
        Assert.Equal("Stopped after 0 of 1. Nothing was changed; resume to begin it again.", (await _jobs.Finish(job.Id)).Message);
        go.Release();
        _jobs.Resume(job.Id);
        Assert.Equal("Done.", (await _jobs.Finish(job.Id)).Message);
    }

    private sealed record Count(int To);

    private sealed class Nothing : IServiceProvider
    {
        public object? GetService(Type serviceType) => null;
    }

    [Fact]
    public async Task What_the_end_of_the_program_interrupted_is_there_afterwards_and_is_resumed_or_dropped_by_choice()
    {
        string folder = Path.Combine(Path.GetTempPath(), Path.GetRandomFileName());
        Directory.CreateDirectory(folder);
        string file = Path.Combine(folder, "jobs.db");
        int reached = 0;
        var counting = new JobKind<Count>("count", (_, who, request) => new JobWork(async context =>
        {
            for (; reached < request.To; reached++)
            {
                context.Report(reached, request.To, $"{who} counts");
                await Task.Delay(2, context.Stop);
            }
            return $"Counted to {request.To}.";
        }))
        { May = Role.Engineer };
        try
        {
            string id, stopped;
            using (var first = new JobRunner(new JobStore(file)))
            {
                first.TakeUp(new Nothing(), [counting]);
                id = first.Start(counting, "Count", "engineer", new Count(100_000)).Id;
                stopped = first.Start(counting, "Count too", "engineer", new Count(100_000)).Id;
                while (reached < 20) await Task.Delay(5);
                first.Stop(stopped);
                await first.Finish(stopped);
                // Long enough for what it came to be kept.
                await Task.Delay(700);
            }
            using var second = new JobRunner(new JobStore(file));
            // A kind that is not known any more leaves nothing behind.
            second.TakeUp(new Nothing(), [counting]);
            JobView interrupted = second.All.Single(j => j.Id == id);
            Assert.Equal((JobState.Interrupted, "Count", "engineer", 100_000), (interrupted.State, interrupted.Label, interrupted.StartedBy, interrupted.Total));
            Assert.InRange(interrupted.Done, 1, 99_999);
            Assert.StartsWith("Interrupted by the end of the program after ", interrupted.Message, StringComparison.Ordinal);
            Assert.Equal(JobState.Stopped, second.All.Single(j => j.Id == stopped).State);
            Assert.False(second.Allows(id, Role.Technician));
            reached = 99_990;
            Assert.True(second.Resume(id));
            Assert.False(second.Drop(id));
            Assert.Equal("Counted to 100000.", (await second.Finish(id)).Message);
            Assert.True(second.Drop(stopped));
            Assert.False(second.Drop(stopped));
            second.Dispose();
            using var third = new JobRunner(new JobStore(file));
            third.TakeUp(new Nothing(), [counting]);
            Assert.Equal([(id, JobState.Done)], third.All.Select(j => (j.Id, j.State)));
            third.Dispose();
            // Of what is done, what was asked for is not kept.
            using (var store = new JobStore(file)) Assert.Equal([""], store.All().Select(j => j.Request));
            using (var fourth = new JobRunner(new JobStore(file)))
            {
                fourth.TakeUp(new Nothing(), []);
                Assert.Empty(fourth.All);
            }
            // A file that cannot be read is put aside, and the project opens without it.
            File.WriteAllBytes(file, [.. Enumerable.Range(0, 9000).Select(i => (byte)i)]);
            using (var fifth = new JobRunner(new JobStore(file))) Assert.Empty(fifth.All);
            Assert.Single(Directory.GetFiles(folder, "jobs.db.damaged-*"));
        }
        finally
        {
            Directory.Delete(folder, recursive: true);
        }
    }
}
