using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Images;
using LoftyWren.Core.Live;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using NodaTime;

namespace LoftyWren.Core.Proofs;

/// <summary>A sequence on a controller of its own with nothing wired: alone, or with a plant that its points are tied to directly.</summary>
public sealed class EngineStand(ControllerImage image, RecordId sequence, IBenchPlant? plant = null) : ITestStand
{
    private readonly Dictionary<RecordId, PinValue> _given = [];
    private ControllerEngine _engine = new(image);
    private long _now;

    /// <summary>The moment it has come to, ms of site time.</summary>
    public long Now => _now;

    /// <summary>Another program of the same sequence on the same plant, at the same moment and with what was given; its blocks begin anew.</summary>
    public EngineStand Otherwise(ControllerImage other)
    {
        var stand = new EngineStand(other, sequence, plant) { _now = _now };
        foreach (var (point, value) in _given) stand.Give(point, value);
        stand.GoTo(_now);
        return stand;
    }

    /// <inheritdoc/>
    public DateTimeZone Zone => _engine.Zone;

    /// <inheritdoc/>
    public long? Stands => null;

    /// <inheritdoc/>
    public long NextDue => _engine.NextDue;

    /// <inheritdoc/>
    public void Begin(long at)
    {
        _now = at;
        plant?.Begin(at);
    }

    /// <inheritdoc/>
    public bool IsCommanded(RecordId point) => _engine.LadderOf(point) is not null;

    /// <inheritdoc/>
    public void Give(RecordId point, PinValue value)
    {
        _given[point] = value;
        Apply(point, value);
    }

    private void Apply(RecordId point, PinValue value)
    {
        // An output is held as an operator would hold it; what measures is told what it measures.
        if (IsCommanded(point) && value.IsUsable) _engine.HoldByHand(new Hold(point, value.Value, "test", "set by the test", _now, null));
        else _engine.Simulate(point, value);
    }

    /// <inheritdoc/>
    public void Have(RecordId point, double value)
    {
        if (plant?.Have(point, value) == true) Measured(point, value);
        else Give(point, new PinValue(value, StatusFlags.None));
    }

    /// <inheritdoc/>
    public void LetGo(RecordId point)
    {
        _given.Remove(point);
        if (!_engine.ReleaseHold(point)) _engine.Simulate(point, null);
    }

    /// <inheritdoc/>
    public Reading Present(RecordId point) => _given.TryGetValue(point, out PinValue given) ? new Reading(given.Value, given.Status, _now) : _engine.Read(point) ?? Reading.Released(_now);

    /// <inheritdoc/>
    public void GoTo(long now)
    {
        _now = now;
        plant?.GoTo(now, Commanded, Measured);
        _engine.Run(now);
    }

    private PinValue Commanded(RecordId point) => _engine.Read(point) is { } reading ? new PinValue(reading.Value, reading.Status) : PinValue.Released;

    private void Measured(RecordId point, double value)
    {
        if (!_given.ContainsKey(point)) _engine.Simulate(point, new PinValue(value, StatusFlags.None));
    }

    /// <inheritdoc/>
    public void CutPower(long milliseconds)
    {
        EngineMemory memory = _engine.Remember();
        _now += milliseconds;
        _engine = new ControllerEngine(image);
        // Without supply nothing is driven.
        plant?.GoTo(_now, _ => PinValue.Released, Measured);
        _engine.Recall(memory, Resumption.AfterPause);
        _engine.Start = new DeviceStart(RestartReason.DetectedPowerLost, _now, SystemStatus.Operational);
        foreach (var (point, value) in _given) Apply(point, value);
    }

    /// <inheritdoc/>
    public ILiveSource? Watch(TestSubject subject) => subject.PointId is { } point ? _engine.Watch(point, "") : _engine.Watch(sequence, $"{subject.BlockId}/{subject.Pin}");

    /// <inheritdoc/>
    public Because? Explain(RecordId point) => _engine.Explain(point);
}
