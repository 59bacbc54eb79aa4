using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;

namespace LoftyWren.Core.Bus.Lines;

/// <summary>What a network keeps over a restart: its lines and units by their keys.</summary>
public sealed record BusNetworkMemory(IReadOnlyDictionary<string, TwoWireMemory> Lines, IReadOnlyDictionary<string, BusUnitMemory> Units);

/// <summary>
/// Two-wire lines with what hangs on them, couplers between, and their time. Everything happens at its moment, lines to the
/// microsecond and devices to the millisecond: however far it is run at a time, it comes to the same. Nothing in it is
/// proportional to the number of devices but what all of them hear.
/// </summary>
public sealed class BusNetwork : IBusUnitOwner
{
    private readonly Dictionary<string, TwoWireLine> _lines = [];
    private readonly Dictionary<string, (BusUnit Unit, string Line, LineCoupler? Coupler)> _units = [];
    private readonly PriorityQueue<BusUnit, (long, string)> _due = new();
    private long _now = long.MinValue / 2;

    /// <summary>Its lines by their keys.</summary>
    public IReadOnlyDictionary<string, TwoWireLine> Lines => _lines;

    /// <summary>A unit, or null.</summary>
    public BusUnit? Find(string key) => _units.TryGetValue(key, out var unit) ? unit.Unit : null;

    /// <summary>A line, laid if it is not there.</summary>
    public TwoWireLine Line(string key)
    {
        if (!_lines.TryGetValue(key, out TwoWireLine? line)) _lines[key] = line = new TwoWireLine();
        return line;
    }

    /// <summary>Hangs a device out of its box on a line, in place of what hung there under its key; a coupler joins its line to the one above.</summary>
    public BusUnit Hang(long now, string key, string line, DeviceDescription description, string serial, string? above = null)
    {
        TakeDown(key);
        _now = Math.Max(_now, now);
        var unit = new BusUnit(key, description, serial, this, _now);
        TwoWireLine own = Line(line);
        unit.Supply(_now, own.IsFed, false);
        own.Attach(unit);
        LineCoupler? coupler = description.Role == LineRole.Coupler && above is not null ? new LineCoupler(key, own, Line(above), () => unit.IsAlive, () => unit.Address, () => unit.Coupling) : null;
        _units[key] = (unit, line, coupler);
        return unit;
    }

    /// <summary>Takes a device down; answers whether it hung there.</summary>
    public bool TakeDown(string key)
    {
        if (!_units.Remove(key, out var was)) return false;
        _lines[was.Line].Detach(was.Unit);
        was.Coupler?.Detach();
        was.Unit.QueuedDue = long.MaxValue;
        return true;
    }

    /// <summary>Does something to a unit at a moment, ms of site time, and takes note of what follows.</summary>
    public void Do(long now, BusUnit unit, Action<BusUnit, long> deed)
    {
        _now = Math.Max(_now, now);
        deed(unit, _now);
        // Who has no bus says no more what it wanted to say.
        if (!unit.IsAlive && _units.TryGetValue(unit.Key, out var own)) _lines[own.Line].Silence(unit);
    }

    /// <summary>A line loses its supply, or has it again.</summary>
    public void Feed(long now, string line, bool isFed)
    {
        TwoWireLine own = Line(line);
        if (own.IsFed == isFed) return;
        own.IsFed = isFed;
        foreach (var (unit, at, _) in _units.Values.Where(u => u.Line == line).OrderBy(u => u.Unit.Key, StringComparer.Ordinal).ToList())
        {
            Do(now, unit, (u, moment) => u.Supply(moment, isFed, u.IsOff));
        }
    }

    /// <summary>When something happens next, ms of site time.</summary>
    public long NextDue
    {
        get
        {
            long next = long.MaxValue;
            foreach (TwoWireLine line in _lines.Values) next = Math.Min(next, line.NextDue);
            if (next < long.MaxValue) next = Up(next);
            return Math.Min(next, NextUnit());
        }
    }

    private static long Up(long microseconds) => (long)Math.Ceiling(microseconds / 1000.0);

    // Entries that are no longer so are passed over.
    private long NextUnit()
    {
        while (_due.TryPeek(out BusUnit? unit, out var at))
        {
            if (unit.QueuedDue == at.Item1 && unit.NextDue == at.Item1) return at.Item1;
            _due.Dequeue();
            if (unit.QueuedDue != at.Item1) continue;
            unit.QueuedDue = long.MaxValue;
            Due(unit);
        }
        return long.MaxValue;
    }

    private void Due(BusUnit unit)
    {
        long due = unit.NextDue;
        if (due >= unit.QueuedDue || due == long.MaxValue || !_units.ContainsKey(unit.Key)) return;
        unit.QueuedDue = due;
        _due.Enqueue(unit, (due, unit.Key));
    }

    /// <summary>Runs until a moment, ms of site time.</summary>
    public void RunUntil(long now)
    {
        // What was due before it was taken up again is due now.
        now = Math.Max(now, _now);
        while (true)
        {
            TwoWireLine? first = null;
            long line = long.MaxValue;
            foreach (TwoWireLine each in _lines.Values)
            {
                if (each.NextDue is var due && due < line) (first, line) = (each, due);
            }
            long unit = NextUnit(), atUnit = unit == long.MaxValue ? long.MaxValue : Math.Max(unit, _now) * 1000;
            if (Math.Min(line, atUnit) > now * 1000) break;
            if (line <= atUnit)
            {
                _now = Math.Max(_now, Up(line));
                first!.Step();
                continue;
            }
            BusUnit next = _due.Dequeue();
            next.QueuedDue = long.MaxValue;
            _now = Math.Max(_now, unit);
            next.Run(_now);
        }
        _now = Math.Max(_now, now);
    }

    /// <inheritdoc/>
    void IBusUnitOwner.Moved(BusUnit unit) => Due(unit);

    /// <inheritdoc/>
    void IBusUnitOwner.Wants(BusUnit unit, BusFrame frame, long microseconds)
    {
        if (_units.TryGetValue(unit.Key, out var own)) _lines[own.Line].Want(unit, frame, microseconds);
    }

    /// <summary>What it keeps over a restart.</summary>
    public BusNetworkMemory Remember() => new(_lines.ToDictionary(l => l.Key, l => l.Value.Remember()), _units.ToDictionary(u => u.Key, u => u.Value.Unit.Remember()));

    /// <summary>Takes up what was kept; the same devices hang on the same lines.</summary>
    public void Recall(BusNetworkMemory memory, long now)
    {
        _now = now;
        foreach (var (key, kept) in memory.Lines) Line(key).Recall(kept);
        foreach (var (key, kept) in memory.Units)
        {
            if (!_units.TryGetValue(key, out var own)) continue;
            own.Unit.Recall(kept, _lines[own.Line].IsFed);
            own.Unit.QueuedDue = long.MaxValue;
            Due(own.Unit);
        }
    }
}
