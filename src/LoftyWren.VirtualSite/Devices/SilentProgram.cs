using LoftyWren.Core.Alarms;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Images;
using LoftyWren.Core.Live;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.VirtualSite.Devices;

/// <summary>
/// What is known of a device that does not answer, or whose program stands: the last values, all of them stale, and nothing
/// of what it has noted since. What would command it is refused.
/// </summary>
internal sealed class SilentProgram : IDeviceProgram
{
    private readonly IDeviceProgram _inner;
    private readonly string _why;
    private readonly Dictionary<RecordId, Reading> _last = [];
    private readonly List<(EventRule, EventState)> _alarms;

    public SilentProgram(IDeviceProgram inner, string why)
    {
        (_inner, _why) = (inner, why);
        foreach (RecordId point in inner.Home)
        {
            if (inner.Read(point) is { } reading) _last[point] = reading with { Status = reading.Status | StatusFlags.Stale };
        }
        Holds = [.. inner.Holds];
        _alarms = [.. inner.AlarmStates];
        LastEventNumber = inner.LastEventNumber;
    }

    public IHostImage Image => _inner.Image;

    public IReadOnlyList<IDevicePort> Ports => [];

    public long NextDue => long.MaxValue;

    public IEnumerable<RecordId> Home => _inner.Home;

    public Type MemoryType => _inner.MemoryType;

    public IReadOnlyCollection<Hold> Holds { get; }

    public IEnumerable<(EventRule Rule, EventState State)> AlarmStates => _alarms;

    public long LastEventNumber { get; }

    public void Run(long now)
    {
    }

    public object Remember(IReadOnlyDictionary<RecordId, long>? collected = null) => _inner.Remember(collected);

    public void Recall(object memory, Resumption how) => throw new InvalidOperationException(_why);

    public Reading? Read(RecordId pointId) => _last.TryGetValue(pointId, out Reading reading) ? reading : null;

    public ILiveSource? Watch(RecordId recordId, string part)
    {
        if (_inner.Watch(recordId, part) is not { } source) return null;
        Reading now = _last.TryGetValue(recordId, out Reading kept) && part.Length == 0 ? kept : source.Read() with { Status = source.Read().Status | StatusFlags.Stale };
        return new Last(source.Form, now);
    }

    public Because? Explain(RecordId recordId) =>
        _inner.Explain(recordId) is null ? null : Because.Of($"{Image.Records.FirstOrDefault(r => r.Id == recordId)?.Name ?? "It"} is as it was last: {_why}", [recordId, Image.Host.Id]);

    public void HoldByHand(Hold hold) => throw new InvalidOperationException(_why);

    public bool ReleaseHold(RecordId pointId) => throw new InvalidOperationException(_why);

    private sealed class Last(ValueForm form, Reading reading) : ILiveSource
    {
        public ValueForm Form => form;

        public Reading Read() => reading;
    }
}
