using LoftyWren.Core.Alarms;
using LoftyWren.Core.Claims;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Controllers;

/// <summary>What a controller remembers over a restart or a changed program, by names that outlive both.</summary>
public sealed record EngineMemory
{
    /// <summary>Memory cells by <c>sequence/block/kind</c>; a cell that holds nothing is null.</summary>
    public Dictionary<string, double?[]> Blocks { get; init; } = [];

    /// <summary>Lines that close a loop by <c>sequence/block.pin</c>.</summary>
    public Dictionary<string, double> Loops { get; init; } = [];

    /// <summary>What every claim on a commanded point said; released ones are left out.</summary>
    public Dictionary<RecordId, IReadOnlyList<ClaimMemory>> Claims { get; init; } = [];

    /// <summary>How long it had run, and the site time of the last scan, in ms; missing in what older versions kept.</summary>
    public long? RunMilliseconds { get; init; }

    /// <summary>Outputs with least times: whether each is on, and since when (ms of site time).</summary>
    public Dictionary<RecordId, LeastMemory> Leasts { get; init; } = [];

    /// <summary>The site time of the last scan, in ms.</summary>
    public long? LastScan { get; init; }

    /// <summary>Alarm states.</summary>
    public Dictionary<RecordId, AlarmMemory> Alarms { get; init; } = [];

    /// <summary>Outputs held by hand.</summary>
    public List<Hold> Holds { get; init; } = [];

    /// <summary>Trend buffers.</summary>
    public Dictionary<RecordId, TrendMemory> Trends { get; init; } = [];

    /// <summary>The newest alarm events, so that none is lost that nobody had collected.</summary>
    public List<EventMemory> Events { get; init; } = [];

    /// <summary>The number of the last alarm event.</summary>
    public long LastEvent { get; init; }

    /// <summary>What every point was and since when; missing in what older versions kept.</summary>
    public Dictionary<RecordId, ReadingMemory> Readings { get; init; } = [];

    /// <summary>What every slot of a sequence carried; of use to the very same program only.</summary>
    public Dictionary<RecordId, PinMemory[]> Slots { get; init; } = [];

    /// <summary>Who is told of points here, and who was heard of points elsewhere.</summary>
    public ExchangeMemory Exchange { get; init; } = new();
}

/// <summary>A kept reading; a value that is no number is null. Since when, ms of site time; and the unit it is in.</summary>
public sealed record ReadingMemory(double? V, StatusFlags F, long T, string? U = null);

/// <summary>Whether an output with least times is on, and since when, ms of site time.</summary>
public sealed record LeastMemory(bool On, long Since);

/// <summary>What a slot carried; a value that is no number is null.</summary>
public sealed record PinMemory(double? V, StatusFlags F);

/// <summary>One kept alarm event; a value that is no number is null.</summary>
public sealed record EventMemory(long Number, RecordId AlarmId, EventState From, EventState To, long At, double? Value);

/// <summary>What one trend log holds that has not been collected, and its last sample, collected or not; values that are no number are null.</summary>
public sealed record TrendMemory(long Total, IReadOnlyList<TrendMemorySample> Samples, long EmptiedAt = 0, TrendMemorySample? Last = null);

/// <summary>One kept sample.</summary>
public sealed record TrendMemorySample(long At, double? Value, StatusFlags Status);

public sealed partial class ControllerEngine
{
    private const int KeptEvents = 1000;

    private long FirstEvent { get; set; } = 1;

    /// <summary>The number of its last alarm event; those after it are still to come.</summary>
    public long LastEventNumber => _events.Count == 0 ? FirstEvent - 1 : _events[^1].Number;

    /// <summary>All that is worth keeping. Trend samples up to the given numbers are already collected and left out.</summary>
    public EngineMemory Remember(IReadOnlyDictionary<RecordId, long>? collected = null) => new()
    {
        Blocks = _sequences.SelectMany(s => s.Plan.Memory.Select(m => (Key: $"{s.Sequence.Id}/{m.Key}/{m.Value.Kind}", Cells: s.State.Memory.AsSpan(m.Value.Cell, BlockType.Of(m.Value.Kind).Cells).ToArray().Select(v => double.IsNaN(v) ? (double?)null : v).ToArray())))
            .Where(m => m.Cells.Any(c => c is not null))
            .ToDictionary(m => m.Key, m => m.Cells),
        Loops = _sequences.SelectMany(s => s.Plan.Feedback.Select(f => (Key: $"{s.Sequence.Id}/{f.Key}", s.State.Slots[f.Value.Slot].Value))).Where(f => double.IsFinite(f.Value)).ToDictionary(f => f.Key, f => f.Value),
        Claims = _ladders.Select((l, i) => (_points[i].Id, Speaking: l?.Speaking() ?? [])).Where(c => c.Speaking.Count > 0).ToDictionary(c => c.Id, c => c.Speaking),
        Leasts = _ladders.Select((l, i) => (_points[i].Id, l?.Standing, Is: l?.HasLeastTimes == true)).Where(l => l.Is && l.Standing is not null).ToDictionary(l => l.Id, l => new LeastMemory(l.Standing!.Value.On, l.Standing.Value.Since)),
        RunMilliseconds = RunMilliseconds,
        LastScan = _lastScan,
        Alarms = _alarms.ToDictionary(a => a.Rule.Id, a => a.Machine.Remember()),
        Holds = [.. _holds.Values],
        Trends = _trends.ToDictionary(t => t.Log.Id, t => new TrendMemory(t.Buffer.Total, [.. t.Buffer.After(collected?.GetValueOrDefault(t.Log.Id) ?? 0, int.MaxValue).Select(s => new TrendMemorySample(s.AtMilliseconds, double.IsNaN(s.Value) ? null : s.Value, s.Status))], t.Buffer.EmptiedAt, t.Buffer.Last is { } last ? new TrendMemorySample(last.AtMilliseconds, double.IsNaN(last.Value) ? null : last.Value, last.Status) : null)),
        Events = [.. _events.TakeLast(KeptEvents).Select(e => new EventMemory(e.Number, e.AlarmId, e.From, e.To, e.AtMilliseconds, double.IsNaN(e.Value) ? null : e.Value))],
        LastEvent = LastEventNumber,
        Readings = _points.Select((p, i) => (p.Id, Memory: new ReadingMemory(OrNull(_readings[i].Value), _readings[i].Status, _since[i], p.Unit))).ToDictionary(r => r.Id, r => r.Memory),
        Slots = _sequences.ToDictionary(s => s.Sequence.Id, s => s.State.Slots.Select(p => new PinMemory(OrNull(p.Value), p.Status)).ToArray()),
        Exchange = RememberExchange(),
    };

    private static double? OrNull(double value) => double.IsFinite(value) ? value : null;

    /// <inheritdoc/>
    object IDeviceProgram.Remember(IReadOnlyDictionary<RecordId, long>? collected) => Remember(collected);

    /// <inheritdoc/>
    public Type MemoryType => typeof(EngineMemory);

    /// <inheritdoc/>
    void IDeviceProgram.Recall(object memory, Resumption how) => Recall((EngineMemory)memory, how);

    /// <summary>What is remembered of a block, or of the block of an older version in whose place it came; null for nothing.</summary>
    private static double?[]? CellsOf(EngineMemory memory, RecordId sequence, string block, BlockKind kind)
    {
        if (memory.Blocks.TryGetValue($"{sequence}/{block}/{kind}", out double?[]? own)) return own;
        foreach (var (from, left) in BlockType.HeirOf(kind))
        {
            if (block.EndsWith(left.Suffix, StringComparison.Ordinal) && memory.Blocks.TryGetValue($"{sequence}/{block[..^left.Suffix.Length]}/{from.Kind}", out double?[]? old)) return left.Cells(old);
        }
        return null;
    }

    /// <inheritdoc/>
    public IReadOnlyList<StateLost> LosesTo(IDeviceProgram next)
    {
        var lost = new List<StateLost>();
        if (next is not ControllerEngine other) return lost;
        foreach (RunningSequence running in _sequences)
        {
            RunningSequence? after = Array.Find(other._sequences, s => s.Sequence.Id == running.Sequence.Id);
            foreach (var (id, (cell, kind)) in running.Plan.Memory)
            {
                // What remembers nothing yet has nothing to lose.
                if (!running.State.Memory.AsSpan(cell, BlockType.Of(kind).Cells).ContainsAnyExcept(double.NaN) || running.Sequence.Blocks.FirstOrDefault(b => b.Id == id) is not { } block) continue;
                if (after?.Plan.Memory.Any(m => (m.Key == id && m.Value.Kind == kind) || BlockType.HeirOf(m.Value.Kind).Any(h => h.From.Kind == kind && m.Key == id + h.Left.Suffix)) == true) continue;
                string why = after is null ? "its sequence no longer runs here" : after.Sequence.Blocks.FirstOrDefault(b => b.Id == id) is not { } changed ? "it is no longer there" : $"it is now of the kind {BlockType.Of(changed.Kind).Name}";
                lost.Add(new StateLost(running.Sequence.Id, running.Sequence.Name, block.Called(), why));
            }
        }
        return lost;
    }

    /// <summary>
    /// Takes up what an earlier engine remembered, wherever identities match. After a pause, in which the controller was
    /// off, no time has passed; when one program takes over from another while the controller runs, the next scan counts
    /// from the last; when the same one goes on, it is due when it would have been.
    /// </summary>
    public void Recall(EngineMemory memory, Resumption how)
    {
        // What older versions kept says too little to go on by.
        if (how == Resumption.GoesOn && memory.Readings.Count == 0) how = Resumption.AfterPause;
        if (how == Resumption.Forgets) memory = new EngineMemory { LastScan = memory.LastScan, Trends = memory.Trends, Events = memory.Events, LastEvent = memory.LastEvent, Leasts = memory.Leasts };
        bool afterPause = how is Resumption.AfterPause or Resumption.Forgets;
        _running = memory.RunMilliseconds;
        _lastScan = afterPause ? null : memory.LastScan;
        foreach (RunningSequence running in _sequences)
        {
            foreach (var (block, (cell, kind)) in running.Plan.Memory)
            {
                if (CellsOf(memory, running.Sequence.Id, block, kind) is not { } cells) continue;
                for (int i = 0; i < Math.Min(cells.Length, BlockType.Of(kind).Cells); i++) running.State.Memory[cell + i] = cells[i] ?? double.NaN;
            }
        }
        foreach (RunningSequence running in _sequences)
        {
            foreach (var (pin, back) in running.Plan.Feedback)
            {
                if (memory.Loops.TryGetValue($"{running.Sequence.Id}/{pin}", out double value)) running.State.Slots[back.Slot] = new PinValue(value, StatusFlags.None);
            }
        }
        // What claims said is taken up before the first scan, so that logic which reads an output finds it as it was.
        foreach (var (point, claims) in memory.Claims)
        {
            if (LadderOf(point) is not { } ladder) continue;
            var still = ClaimsOn(point).Select(c => c.Priority).Where(p => p != Ladder.LeastTimes || !ladder.HasLeastTimes).ToHashSet();
            foreach (ClaimMemory claim in claims.Where(c => still.Contains(c.Priority))) ladder.Claim(claim.Priority, claim.Value, claim.Status);
        }
        // What protects equipment outlives every start.
        foreach (var (point, least) in memory.Leasts)
        {
            if (LadderOf(point) is { HasLeastTimes: true } ladder) ladder.Stand(least.On, least.Since);
        }
        if (afterPause && memory.LastScan is { } pause) RestOutputs(pause);
        foreach (var (rule, machine, _) in _alarms)
        {
            if (memory.Alarms.TryGetValue(rule.Id, out AlarmMemory? alarm)) machine.Restore(alarm, _lastScan);
        }
        foreach (Hold hold in memory.Holds)
        {
            if (LadderOf(hold.PointId) is not null) HoldByHand(hold);
        }
        foreach (var (log, buffer, _) in _trends)
        {
            if (!memory.Trends.TryGetValue(log.Id, out TrendMemory? trend)) continue;
            long number = trend.Total - trend.Samples.Count;
            buffer.ContinueFrom([.. trend.Samples.TakeLast(log.BufferSize).Select(s => new Sample(++number, s.At, s.Value ?? double.NaN, s.Status))], trend.Total, trend.EmptiedAt, memory.LastScan, afterPause, trend.Last is { } last ? (last.Value ?? double.NaN, last.Status) : null);
        }
        _events.AddRange(memory.Events.Select(e => new AlarmEvent(e.Number, e.AlarmId, e.From, e.To, e.At, e.Value ?? double.NaN)));
        NumberEventsAfter(memory.LastEvent);
        for (int i = 0; i < _points.Length; i++)
        {
            // What is read from others goes on too, or a send would make the logic do without it for a scan; but not in another unit.
            if (!memory.Readings.TryGetValue(_points[i].Id, out ReadingMemory? kept) || (how == Resumption.TakesOver && kept.U != _points[i].Unit)) continue;
            (_readings[i], _since[i]) = (new PinValue(kept.V ?? double.NaN, kept.F), kept.T);
        }
        RecallExchange(memory.Exchange, how);
        if (how == Resumption.GoesOn && memory.LastScan is { } scan) GoOn(memory, scan);
    }

    private void GoOn(EngineMemory memory, long scan)
    {
        (Now, _started, _next) = (scan, true, AfterBeat(scan));
        foreach (RunningSequence running in _sequences)
        {
            running.GoOnAfter(scan);
            _next = Math.Min(_next, running.Due);
            if (!memory.Slots.TryGetValue(running.Sequence.Id, out PinMemory[]? slots) || slots.Length != running.State.Slots.Length) continue;
            for (int i = 0; i < slots.Length; i++) running.State.Slots[i] = new PinValue(slots[i].V ?? double.NaN, slots[i].F);
        }
        for (int i = 0; i < _ladders.Length; i++) _ladders[i]?.Resolve();
    }

    /// <summary>
    /// Numbers the next event after this one at least. After a crash whoever collects may have seen more events than were
    /// kept here; a number given twice would be taken for an event already seen, and its alarm would never come.
    /// </summary>
    public void NumberEventsAfter(long number) => FirstEvent = Math.Max(FirstEvent, number + 1);
}
