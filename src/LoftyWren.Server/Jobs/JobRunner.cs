using System.Collections.Concurrent;
using System.Diagnostics;
using System.Text.Json;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Jobs;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.Data.Sqlite;

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
    /// <summary>The program ended while it was at work; it can be resumed or dropped.</summary>
    Interrupted,
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

/// <summary>The work of a job, and what is so when it was stopped.</summary>
public sealed record JobWork(Func<JobContext, Task<string>> Work, string Stopped = "Nothing was changed over; resume to go on from there.");

/// <summary>A kind of long work: what was asked for can be kept as text and taken up again by whoever runs the program next.</summary>
public abstract record JobKind(string Key)
{
    /// <summary>Who may stop, resume and drop it at least.</summary>
    public Role May { get; init; } = Role.Technician;

    /// <summary>The work of a kept request, with the services of its project.</summary>
    /// <exception cref="InvalidOperationException">What it was about is not there any more; says what.</exception>
    public abstract JobWork Take(IServiceProvider services, string who, string request);
}

/// <summary>A kind of long work.</summary>
/// <typeparam name="T">What is asked for; it can be written as JSON.</typeparam>
public sealed record JobKind<T>(string Key, Func<IServiceProvider, string, T, JobWork> Make) : JobKind(Key)
{
    /// <inheritdoc/>
    public override JobWork Take(IServiceProvider services, string who, string request) => Make(services, who, JsonSerializer.Deserialize<T>(request, RecordJson.Options)!);

    /// <summary>A request as it is kept.</summary>
    public string Write(T request) => JsonSerializer.Serialize(request, RecordJson.Options);
}

/// <summary>
/// Long work with progress, a stop and a resume. A job's work is written so that running it again goes on where it stopped.
/// What was asked for and how far it came is kept: a job that was interrupted by the end of the program is there afterwards.
/// </summary>
public sealed class JobRunner(JobStore? store = null) : IDisposable
{
    private const int KeptJobs = 50;
    private readonly ConcurrentDictionary<string, Job> _jobs = new();
    private readonly Lock _starting = new();
    private IServiceProvider? _services;

    /// <summary>Told whenever a job moves.</summary>
    public event Action<JobView>? Moved;

    /// <summary>All known jobs, newest first.</summary>
    public IReadOnlyList<JobView> All => [.. _jobs.Values.OrderByDescending(j => j.Number).Select(j => j.View)];

    /// <summary>Takes up the jobs that were kept; those at work when the program ended are interrupted. Kinds that are not known any more are dropped.</summary>
    public void TakeUp(IServiceProvider services, IReadOnlyList<JobKind> kinds)
    {
        _services = services;
        foreach (KeptJob kept in store?.All() ?? [])
        {
            if (kinds.FirstOrDefault(k => k.Key == kept.Kind) is not { } kind || !Enum.TryParse(kept.State, out JobState state))
            {
                store!.Drop(kept.Id);
                continue;
            }
            bool isInterrupted = state == JobState.Running;
            var view = new JobView(kept.Id, kept.Kind, kept.Label, isInterrupted ? JobState.Interrupted : state, kept.Done, kept.Total,
                isInterrupted ? $"Interrupted by the end of the program after {kept.Done:N0} of {kept.Total:N0}. Resume it, or drop it." : kept.Message, kept.Who);
            _jobs[kept.Id] = new Job(this, kept.Number, view, () => kind.Take(services, kept.Who, kept.Request), kind.May, isKept: true);
        }
    }

    /// <summary>Starts work of a kind that is kept; answers at once.</summary>
    public JobView Start<T>(JobKind<T> kind, string label, string who, T request) => Start(kind.Key, label, who, () => kind.Make(_services!, who, request), kind.May, kind.Write(request));

    /// <summary>Starts work; answers at once.</summary>
    /// <param name="kind">The sort of work.</param>
    /// <param name="label">What people read.</param>
    /// <param name="who">Who started it.</param>
    /// <param name="work">The work; it answers what it did.</param>
    /// <param name="stopped">What is so when it was stopped, and what resuming does.</param>
    /// <param name="may">Who may stop and resume it at least.</param>
    public JobView Start(string kind, string label, string who, Func<JobContext, Task<string>> work, string stopped = "Nothing was changed over; resume to go on from there.", Role may = Role.Technician) =>
        Start(kind, label, who, () => new JobWork(work, stopped), may, null);

    private JobView Start(string kind, string label, string who, Func<JobWork> work, Role may, string? request)
    {
        Job job;
        lock (_starting)
        {
            int number = _jobs.IsEmpty ? 1 : _jobs.Values.Max(j => j.Number) + 1;
            job = new Job(this, number, new JobView(RecordId.New("job").Value, kind, label, JobState.Running, 0, 1, "Starting", who), work, may, isKept: store is not null && request is not null);
            if (job.IsKept) store!.Add(new KeptJob(job.View.Id, number, kind, label, who, request!, nameof(JobState.Running), 0, 1, "Starting"));
            _jobs[job.View.Id] = job;
        }
        foreach (Job old in _jobs.Values.Where(j => j.View.State == JobState.Done).OrderByDescending(j => j.Number).Skip(KeptJobs)) Drop(old.View.Id);
        job.Run();
        return job.View;
    }

    /// <summary>Forgets a job that does not run; answers whether it was one.</summary>
    public bool Drop(string id)
    {
        if (!_jobs.TryGetValue(id, out Job? job) || job.View.State == JobState.Running || !_jobs.TryRemove(id, out _)) return false;
        if (job.IsKept) store!.Drop(id);
        return true;
    }

    /// <summary>The jobs at work are asked to stop, and are interrupted when they are taken up again.</summary>
    public void Dispose()
    {
        foreach (Job job in _jobs.Values) job.End();
        // What is at work comes to its next safe point before the stores beneath it are closed.
        Task.WaitAll([.. _jobs.Values.Select(j => j.Task)], TimeSpan.FromSeconds(5));
        store?.Dispose();
    }

    /// <summary>Whether somebody of this role may stop and resume a job; one that is not known is nobody's.</summary>
    public bool Allows(string id, Role role) => !_jobs.TryGetValue(id, out Job? job) || role >= job.May;

    /// <summary>Asks a running job to stop at its next safe point; answers whether it runs.</summary>
    public bool Stop(string id) => _jobs.TryGetValue(id, out Job? job) && job.Stop();

    /// <summary>Runs a stopped or failed job on; answers whether it was one.</summary>
    public bool Resume(string id) => _jobs.TryGetValue(id, out Job? job) && job.View.State is JobState.Stopped or JobState.Failed or JobState.Interrupted && job.Run();

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
        api.MapPost("/jobs/{id}/drop", Results<NoContent, ProblemHttpResult> (string id, HttpContext http, JobRunner jobs) =>
            !jobs.Allows(id, Least.Of(http.User)) ? NotYours() : jobs.Drop(id) ? TypedResults.NoContent() : Problems.Refused("This job is at work, or is not there any more. Stop it first.")).For(Role.Technician);
    }

    private static ProblemHttpResult NotYours() => Problems.Refused("This job changes the project, so it takes an engineer to stop or resume it.");

    private sealed class Job(JobRunner owner, int number, JobView view, Func<JobWork> take, Role may, bool isKept)
    {
        private static readonly TimeSpan KeepEvery = TimeSpan.FromMilliseconds(500);
        private CancellationTokenSource _stop = new();
        private JobWork? _work;
        private long _keptAt;
        private volatile bool _isEnding;

        public int Number { get; } = number;

        public bool IsKept { get; } = isKept;

        public Role May { get; } = may;

        public JobView View { get; private set; } = view;

        public Task Task { get; private set; } = Task.CompletedTask;

        public bool Run()
        {
            _stop = new CancellationTokenSource();
            Set(View with { State = JobState.Running, Message = "Starting" });
            Task = System.Threading.Tasks.Task.Run(async () =>
            {
                try
                {
                    string message = await (_work ??= take()).Work(new JobContext((done, total, text) => Set(View with { Done = done, Total = total, Message = text }), _stop.Token));
                    Set(View with { State = JobState.Done, Done = View.Total, Message = message });
                }
                catch (OperationCanceledException)
                {
                    // One that is stopped because the program ends stays as it is kept: it is interrupted, not stopped.
                    if (!_isEnding) Set(View with { State = JobState.Stopped, Message = $"Stopped after {View.Done:N0} of {View.Total:N0}. {_work?.Stopped}" });
                }
                catch (Exception e)
                {
                    if (!_isEnding) Set(View with { State = JobState.Failed, Message = e.Message });
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

        public void End()
        {
            _isEnding = true;
            _stop.Cancel();
        }

        private void Set(JobView view)
        {
            bool isNews = view.State != View.State || Stopwatch.GetElapsedTime(_keptAt) > KeepEvery;
            View = view;
            if (IsKept && isNews && !_isEnding)
            {
                _keptAt = Stopwatch.GetTimestamp();
                owner.Keep(view);
            }
            owner.Moved?.Invoke(view);
        }
    }

    private void Keep(JobView view)
    {
        try
        {
            store!.Move(view.Id, view.State.ToString(), view.Done, view.Total, view.Message);
        }
        catch (Exception e) when (e is SqliteException or ObjectDisposedException)
        {
            // How far it is cannot be noted just now; the work goes on.
        }
    }
}
