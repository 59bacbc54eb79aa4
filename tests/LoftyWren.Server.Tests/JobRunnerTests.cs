using LoftyWren.Server.Jobs;
using LoftyWren.Storage.Accounts;

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
}
