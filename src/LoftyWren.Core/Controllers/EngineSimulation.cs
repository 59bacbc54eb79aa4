using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using NodaTime;

namespace LoftyWren.Core.Controllers;

/// <content>What is told a controller in place of what it measures.</content>
public sealed partial class ControllerEngine
{
    private readonly Dictionary<int, PinValue> _simulated = [];

    /// <summary>From the next scan on a point that nothing here commands is this, whatever its terminal measures; null gives it back to its terminal.</summary>
    /// <exception cref="InvalidOperationException">The point is not here, or is commanded here: hold it instead.</exception>
    public void Simulate(RecordId pointId, PinValue? value)
    {
        if (!_index.TryGetValue(pointId, out int i)) throw new InvalidOperationException("This controller does not know the point.");
        if (_ladders[i] is not null)
        {
            if (value is { IsUsable: true }) throw new InvalidOperationException("An output is held, not simulated.");
            return;
        }
        if (value is { } told) _simulated[i] = told;
        else if (_simulated.Remove(i))
        {
            Array.Fill(_lastRaw, double.PositiveInfinity);
            if (_busOf[i] is { } tie) tie.Last = double.PositiveInfinity;
            if (_fittings[i] is null) _readings[i] = PinValue.Released;
        }
    }

    /// <inheritdoc/>
    public Standstill Standstill() => new(Image, Remember(_trends.ToDictionary(t => t.Log.Id, t => t.Buffer.Total)), Now, ClockOffset, Start);

    /// <summary>What a schedule says at a moment of site time; null where it says nothing, or is not here.</summary>
    public double? ScheduleNow(RecordId scheduleId, long now) => Array.Find(_schedules, s => s.Schedule.Id == scheduleId)?.Timetable.ValueAt(Instant.FromUnixTimeMilliseconds(now + ClockOffset)).Value;

    private void TellSimulated(long now)
    {
        foreach (var (point, value) in _simulated) Set(point, value.Value, value.Status, now);
    }
}
