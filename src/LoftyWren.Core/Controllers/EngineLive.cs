using LoftyWren.Core.Live;
using LoftyWren.Core.Points;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Controllers;

/// <content>What of a running controller can be watched.</content>
public sealed partial class ControllerEngine
{
    /// <inheritdoc/>
    public ILiveSource? Watch(RecordId recordId, string part) => part.Length > 0
        ? part.Split('/') is [var block, var pin] ? SourceOfPin(recordId, block, pin) : part == "ahead" ? SourceAhead(recordId) : null
        : SourceOf(recordId) ?? SourceOfSchedule(recordId);

    /// <summary>A point of the image, or null.</summary>
    public ILiveSource? SourceOf(RecordId pointId) => _index.TryGetValue(pointId, out int i) ? new LivePoint(this, i) : null;

    /// <summary>A schedule of the image, or null.</summary>
    public ILiveSource? SourceOfSchedule(RecordId scheduleId) => Array.Find(_schedules, s => s.Schedule.Id == scheduleId) is { } running ? new LiveSchedule(this, running) : null;

    /// <summary>How long until a schedule of the image changes, or null.</summary>
    private LiveAhead? SourceAhead(RecordId scheduleId) => Array.Find(_schedules, s => s.Schedule.Id == scheduleId) is { } running ? new LiveAhead(this, running) : null;

    /// <summary>An output pin of a block, or null.</summary>
    public ILiveSource? SourceOfPin(RecordId sequenceId, string block, string pin) =>
        Array.Find(_sequences, s => s.Sequence.Id == sequenceId) is { } running && running.Plan.Pins.TryGetValue($"{block}.{pin}", out int slot)
            ? new LivePin(this, running, slot, running.Typing.Outputs.GetValueOrDefault((block, pin))) : null;

    private sealed class LivePoint(ControllerEngine engine, int index) : ILiveSource
    {
        public ValueForm Form { get; } = new(engine._points[index].Kind, engine._points[index].Unit, engine._points[index].StateTexts);

        public Reading Read() => engine.ReadingAt(index);
    }

    private sealed class LiveSchedule(ControllerEngine engine, RunningSchedule running) : ILiveSource
    {
        public ValueForm Form { get; } = new(running.Schedule.Kind, running.Schedule.Unit, running.Schedule.StateTexts);

        public Reading Read() => new(running.Value, running.Status, engine.Now);
    }

    private sealed class LiveAhead(ControllerEngine engine, RunningSchedule running) : ILiveSource
    {
        public ValueForm Form { get; } = ValueForm.Number with { Unit = "s" };

        public Reading Read() => running.UntilChange(engine.Now + engine.ClockOffset) is var left ? new(left.Value, left.Status, engine.Now) : default;
    }

    private sealed class LivePin(ControllerEngine engine, RunningSequence running, int slot, LineType type) : ILiveSource
    {
        public ValueForm Form { get; } = type.Binary ? ValueForm.OnOff : type.States is { } states ? new ValueForm(PointKind.Multistate, null, states) : ValueForm.Number with { Unit = type.Unit?.Symbol };

        public Reading Read() => running.Reading(slot, engine.Now);
    }
}
