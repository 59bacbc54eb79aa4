using System.Collections.Concurrent;
using LoftyWren.Server.Accounts;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Jobs;

/// <summary>Where a job is.</summary>
public enum JobState
{
    /// <summary>At work.</summary>
    Running,
    /// <summary>Finished.</summary>
    Done,
    /// <summary>Stopped by somebody; it can be resumed.</summary>
    Stopped,
    /// <summary>Failed with a message; it can be resumed.</summary>
    Failed,
}

/// <summary>Long work as screens show it.</summary>
public sealed record JobView(string Id, string Kind, string Label, JobState State, int Done, int Total, string Message, string StartedBy);

/// <summary>What a job's work tells and asks while it runs.</summary>
public sealed class JobContext(Action<int, int, string> report, CancellationToken stop)
{
    /// <summary>Set when somebody stops the job.</summary>
    public CancellationToken Stop { get; } = stop;

    /// <summary>How far it said it is.</summary>
    public int Done { get; private set; }

    /// <summary>Of how much.</summary>
    public int Total { get; private set; } = 1;

    /// <summary>Tells how far it is, of how much, and what it does.</summary>
    public void Report(int done, int total, string message)
    {
        Stop.ThrowIfCancellationRequested();
        (Done, Total) = (done, total);
        report(done, total, message);
    }
}

/// <summary>Long work with progress, a stop and a resume. A job's work is written so that running it again goes on where it stopped.</summary>
public sealed class JobRunner
{
    private const int KeptJobs = 50;
    private readonly ConcurrentDictionary<string, Job> _jobs = new();

    /// <summary>Told whenever a job moves.</summary>
    public event Action<JobView>? Moved;

    /// <summary>All known jobs, newest first.</summary>
    public IReadOnlyList<JobView> All => [.. _jobs.Values.OrderByDescending(j => j.Number).Select(j => j.View)];

    /// <summary>Starts work; answers at once.</summary>
    /// <param name="kind">The sort of work.</param>
    /// <param name="label">What people read.</param>
    /// <param name="who">Who started it.</param>
    /// <param name="work">The work; it answers what it did.</param>
    /// <param name="stopped">What is so when it was stopped, and what resuming does.</param>
    /// <param name="may">Who may stop and resume it at least.</param>
    public JobView Start(string kind, string label, string who, Func<JobContext, Task<string>> work, string stopped = "Nothing was changed over; resume to go on from there.", Role may = Role.Technician)
    {
        var job = new Job(this, _jobs.IsEmpty ? 1 : _jobs.Values.Max(j => j.Number) + 1, kind, label, who, work, stopped, may);
        _jobs[job.View.Id] = job;
        foreach (Job old in _jobs.Values.Where(j => j.View.State != JobState.Running).OrderByDescending(j => j.Number).Skip(KeptJobs)) _jobs.TryRemove(old.View.Id, out _);
        job.Run();
        return job.View;
    }

    /// <summary>Whether somebody of this role may stop and resume a job; one that is not known is nobody's.</summary>
    public bool Allows(string id, Role role) => !_jobs.TryGetValue(id, out Job? job) || role >= job.May;

    /// <summary>Asks a running job to stop at its next safe point; answers whether it runs.</summary>
    public bool Stop(string id) => _jobs.TryGetValue(id, out Job? job) && job.Stop();

    /// <summary>Runs a stopped or failed job on; answers whether it was one.</summary>
    public bool Resume(string id) => _jobs.TryGetValue(id, out Job? job) && job.View.State is JobState.Stopped or JobState.Failed && _jobs[id].Run();

    /// <summary>Waits until a job no longer runs.</summary>
    public async Task<JobView> Finish(string id)
    {
        Job job = _jobs[id];
        await job.Task;
        return job.View;
    }

    /// <summary>The endpoints.</summary>
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/jobs", (JobRunner jobs) => jobs.All).For(Role.Viewer);
        api.MapPost("/jobs/{id}/stop", Results<NoContent, ProblemHttpResult> (string id, HttpContext http, JobRunner jobs) =>
            !jobs.Allows(id, Least.Of(http.User)) ? NotYours() : jobs.Stop(id) ? TypedResults.NoContent() : Problems.Refused("This job does not run any more.")).For(Role.Technician);
        api.MapPost("/jobs/{id}/resume", Results<NoContent, ProblemHttpResult> (string id, HttpContext http, JobRunner jobs) =>
            !jobs.Allows(id, Least.Of(http.User)) ? NotYours() : jobs.Resume(id) ? TypedResults.NoContent() : Problems.Refused("This job is not stopped, so it cannot be resumed.")).For(Role.Technician);
    }

    private static ProblemHttpResult NotYours() => Problems.Refused("This job changes the project, so it takes an engineer to stop or resume it.");

    private sealed class Job(JobRunner owner, int number, string kind, string label, string who, Func<JobContext, Task<string>> work, string stopped, Role may)
    {
        private CancellationTokenSource _stop = new();

        public int Number { get; } = number;

        public Role May { get; } = may;

        public JobView View { get; private set; } = new(RecordIdText(), kind, label, JobState.Running, 0, 1, "Starting", who);

        public Task Task { get; private set; } = Task.CompletedTask;

        public bool Run()
        {
            _stop = new CancellationTokenSource();
            Set(View with { State = JobState.Running, Message = "Starting" });
            Task = System.Threading.Tasks.Task.Run(async () =>
            {
                try
                {
                    string message = await work(new JobContext((done, total, text) => Set(View with { Done = done, Total = total, Message = text }), _stop.Token));
                    Set(View with { State = JobState.Done, Done = View.Total, Message = message });
                }
                catch (OperationCanceledException)
                {
                    Set(View with { State = JobState.Stopped, Message = $"Stopped after {View.Done:N0} of {View.Total:N0}. {stopped}" });
                }
                catch (Exception e)
                {
                    Set(View with { State = JobState.Failed, Message = e.Message });
                }
            });
            return true;
        }

        public bool Stop()
        {
            if (View.State != JobState.Running) return false;
            _stop.Cancel();
            return true;
        }

        private void Set(JobView view)
        {
            View = view;
            owner.Moved?.Invoke(view);
        }

        private static string RecordIdText() => Core.Records.RecordId.New("job").Value;
    }
}
