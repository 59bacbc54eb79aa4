using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;

namespace LoftyWren.Core.Bus.Lines;

/// <summary>What a station answers to a telegram, in the octet after it. Where several answer at once, the strongest wins: damaged, busy, taken.</summary>
public enum LineAnswer
{
    /// <summary>Nothing: it is not concerned.</summary>
    None,
    /// <summary>It has taken it.</summary>
    Taken,
    /// <summary>It cannot take it now.</summary>
    Busy,
    /// <summary>It has not understood it.</summary>
    Damaged,
}

/// <summary>Whoever hangs on a line: a device, one side of a coupler, an interface. Moments are µs of site time.</summary>
public interface ILineStation
{
    /// <summary>By which it is known over a restart.</summary>
    string Key { get; }

    /// <summary>Whether it has supply and wires, so that it hears and sends.</summary>
    bool IsAlive { get; }

    /// <summary>How often it sends again what nobody has acknowledged.</summary>
    int Repetitions => TwoWireLine.MostRepetitions;

    /// <summary>What it answers to a telegram.</summary>
    LineAnswer Answer(BusFrame frame);

    /// <summary>A telegram has come, to it or to another; once, however often it was repeated.</summary>
    void Hear(long microseconds, BusFrame frame);

    /// <summary>What it sent was taken, or was not after all repetitions.</summary>
    void Sent(long microseconds, BusFrame frame, bool isTaken);
}

/// <summary>A telegram as it went over a line: from its first bit to the end of its acknowledgement (µs of site time), what was answered, and which repetition it was.</summary>
public readonly record struct LineMoment(long From, long Until, BusFrame Frame, LineAnswer Answer, int Repetition);

/// <summary>A telegram that waits, or is on its way: whose, its octets, from when on, which repetition, its place among those of its station.</summary>
public sealed record WaitingFrame(string Station, string Octets, long ReadyAt, int Repetition, long Order);

/// <summary>What a line keeps over a restart.</summary>
public sealed record TwoWireMemory(long IdleSince, long? EndsAt, long BegunAt, IReadOnlyList<WaitingFrame> OnTheWay, IReadOnlyList<WaitingFrame> Waiting, bool IsFed);

/// <summary>
/// A two-wire line (ISO/IEC 14543-3-6) at 9600 bit/s. One telegram goes at a time. Whoever has one waits until the line has
/// been free for 50 bits' time, ordinary ones for three more; of those that begin together the first to send a 0 where
/// another sends a 1 goes on and the others wait: so system goes before urgent before normal before low, a repetition before
/// a first try, and among equals by their addresses, of which each octet goes with its low bit first: 1.1.2 before 1.1.1. After it comes one octet of acknowledgement; what nobody takes, or somebody has
/// not understood, is repeated at once up to three times; what somebody is too busy for is repeated 150 bits' time later.
/// The same wishes at the same times always come to the same.
/// </summary>
public sealed class TwoWireLine
{
    /// <summary>How often a telegram is repeated at most.</summary>
    public const int MostRepetitions = 3;

    private sealed class Waiting(BusFrame frame, long readyAt, long order)
    {
        public BusFrame Frame = frame;
        public byte[] Octets = frame.ToOctets();
        public long ReadyAt = readyAt;
        public long Order = order;
        public int Repetition;
        // Who has it already is not told again when it is repeated for others.
        public HashSet<ILineStation>? Had;
    }

    private sealed class Lane(ILineStation station)
    {
        public ILineStation Station = station;
        public PriorityQueue<Waiting, (int, long)> Queue = new();
    }

    private readonly List<Lane> _lanes = [];
    private readonly Dictionary<ILineStation, Lane> _laneOf = [];
    private readonly List<(Lane Lane, Waiting What)> _sending = [];
    private long _idleSince = long.MinValue / 2, _begunAt, _endsAt, _order;
    private (long At, bool IsKnown) _nextStart;

    /// <summary>Told of every telegram when it is over.</summary>
    public Action<LineMoment>? Watcher { get; set; }

    /// <summary>Asked whether something spoils a telegram on its way; nothing does where nobody says so.</summary>
    public Func<BusFrame, bool>? Spoils { get; set; }

    /// <summary>Whether the line has its supply.</summary>
    public bool IsFed
    {
        get;
        set
        {
            field = value;
            _nextStart.IsKnown = false;
        }
    } = true;

    /// <summary>For how long it was taken since it began, µs.</summary>
    public long BusyMicroseconds { get; private set; }

    /// <summary>Hangs a station on it.</summary>
    public void Attach(ILineStation station)
    {
        if (_laneOf.ContainsKey(station)) return;
        var lane = new Lane(station);
        _laneOf[station] = lane;
        _lanes.Add(lane);
    }

    /// <summary>Takes a station off; what it wanted to send is gone, what is on its way goes on.</summary>
    public void Detach(ILineStation station)
    {
        if (!_laneOf.Remove(station, out Lane? lane)) return;
        _lanes.Remove(lane);
        _nextStart.IsKnown = false;
    }

    /// <summary>How many telegrams of a station wait.</summary>
    public int WaitingOf(ILineStation station) => _laneOf.TryGetValue(station, out Lane? lane) ? lane.Queue.Count : 0;

    /// <summary>A station wants to send something from a moment on.</summary>
    public void Want(ILineStation station, BusFrame frame, long microseconds)
    {
        if (!_laneOf.TryGetValue(station, out Lane? lane) || !station.IsAlive) return;
        Enqueue(lane, new Waiting(frame, microseconds, _order++));
    }

    private void Enqueue(Lane lane, Waiting waiting)
    {
        lane.Queue.Enqueue(waiting, (Rank(waiting.Frame), waiting.Order));
        _nextStart.IsKnown = false;
    }

    /// <summary>Forgets what a station wants to send: it has lost its supply.</summary>
    public void Silence(ILineStation station)
    {
        if (_laneOf.TryGetValue(station, out Lane? lane)) lane.Queue.Clear();
        _nextStart.IsKnown = false;
    }

    // System 00, urgent 10, normal 01, low 11: as the line arbitrates, which sees the lower bit first.
    private static int Rank(BusFrame frame) => (frame.IsRepeated ? 0 : 8) + frame.Priority switch { BusPriority.System => 0, BusPriority.Urgent => 1, BusPriority.Normal => 2, _ => 3 };

    /// <summary>When something happens on it next, µs; <see cref="long.MaxValue"/> while nobody wants anything.</summary>
    public long NextDue
    {
        get
        {
            if (_sending.Count > 0) return _endsAt;
            if (_nextStart.IsKnown) return _nextStart.At;
            long next = long.MaxValue;
            if (IsFed)
            {
                foreach (Lane lane in _lanes) next = Math.Min(next, StartOf(lane));
            }
            _nextStart = (next, true);
            return next;
        }
    }

    private long StartOf(Lane lane)
    {
        if (!lane.Queue.TryPeek(out Waiting? first, out _)) return long.MaxValue;
        bool isPolite = !first.Frame.IsRepeated && first.Frame.Priority is BusPriority.Normal or BusPriority.Low;
        return Math.Max(_idleSince + FrameTime.OfBits(FrameTime.IdleBits + (isPolite ? FrameTime.PolitenessBits : 0)), first.ReadyAt);
    }

    /// <summary>Does what is due next, at its time.</summary>
    public void Step()
    {
        if (_sending.Count > 0) Finish();
        else if (NextDue is var start && start < long.MaxValue) Begin(start);
    }

    private void Begin(long start)
    {
        byte[]? best = null;
        foreach (Lane lane in _lanes)
        {
            // Whoever begins within the same bit has not heard the others yet.
            if (StartOf(lane) >= start + FrameTime.OfBits(1)) continue;
            Waiting mine = lane.Queue.Peek();
            int against = best is null ? -1 : Compare(mine.Octets, best);
            if (against < 0)
            {
                _sending.Clear();
                best = mine.Octets;
            }
            // Two that say the very same notice nothing of each other.
            if (against <= 0) _sending.Add((lane, mine));
        }
        (_begunAt, _endsAt) = (start, start + FrameTime.OnTheLine(best!.Length));
    }

    // Octets go with their low bit first, and a 0 is stronger than a 1.
    private static int Compare(byte[] a, byte[] b)
    {
        for (int i = 0; i < Math.Min(a.Length, b.Length); i++)
        {
            int differ = a[i] ^ b[i];
            if (differ == 0) continue;
            int lowest = differ & -differ;
            return (a[i] & lowest) == 0 ? -1 : 1;
        }
        return a.Length.CompareTo(b.Length);
    }

    private void Finish()
    {
        var sending = _sending.ToArray();
        _sending.Clear();
        _nextStart.IsKnown = false;
        long at = _endsAt;
        _idleSince = at;
        BusyMicroseconds += at - _begunAt;
        BusFrame frame = sending[0].What.Frame;
        LineAnswer answer = LineAnswer.None;
        bool isSpoilt = !IsFed || (Spoils?.Invoke(frame) ?? false);
        ILineStation[] others = [.. _lanes.Select(l => l.Station).Where(s => s.IsAlive && !Array.Exists(sending, x => x.Lane.Station == s))];
        var heard = new List<ILineStation>(others.Length);
        foreach (ILineStation station in others)
        {
            LineAnswer own = isSpoilt ? LineAnswer.Damaged : station.Answer(frame);
            if (own > answer) answer = own;
            if (own < LineAnswer.Busy && sending[0].What.Had?.Contains(station) != true) heard.Add(station);
        }
        int repetition = sending[0].What.Repetition;
        Watcher?.Invoke(new LineMoment(_begunAt, at, frame, answer, repetition));
        bool isTaken = answer == LineAnswer.Taken;
        bool IsOver(Lane lane) => isTaken || repetition >= lane.Station.Repetitions;
        foreach (var (lane, what) in sending)
        {
            Take(lane, what);
            if (!IsOver(lane)) Again(lane, what, heard, at, answer);
        }
        foreach (ILineStation station in heard) station.Hear(at, frame);
        foreach (var (lane, what) in sending)
        {
            if (IsOver(lane)) lane.Station.Sent(at, what.Frame, isTaken);
        }
    }

    // It was first of its lane when it began, and something more urgent may have come since.
    private static void Take(Lane lane, Waiting what)
    {
        if (lane.Queue.TryPeek(out Waiting? first, out _) && ReferenceEquals(first, what)) lane.Queue.Dequeue();
        else lane.Queue.Remove(what, out _, out _);
    }

    private void Again(Lane lane, Waiting what, List<ILineStation> heard, long at, LineAnswer answer)
    {
        if (!lane.Station.IsAlive || !_laneOf.ContainsKey(lane.Station)) return;
        what.Had ??= [];
        what.Had.UnionWith(heard);
        what.Repetition++;
        if (!what.Frame.IsRepeated) (what.Frame, what.Octets) = (what.Frame with { IsRepeated = true }, (what.Frame with { IsRepeated = true }).ToOctets());
        what.ReadyAt = answer == LineAnswer.Busy ? at + FrameTime.OfBits(FrameTime.BusyBits) : at;
        Enqueue(lane, what);
    }

    /// <summary>What it keeps over a restart.</summary>
    public TwoWireMemory Remember()
    {
        WaitingFrame Of(Lane lane, Waiting w) => new(lane.Station.Key, Convert.ToHexString(w.Octets), w.ReadyAt, w.Repetition, w.Order);
        return new TwoWireMemory(_idleSince, _sending.Count > 0 ? _endsAt : null, _begunAt, [.. _sending.Select(s => Of(s.Lane, s.What))],
            [.. _lanes.SelectMany(l => l.Queue.UnorderedItems.Where(i => !_sending.Exists(s => ReferenceEquals(s.What, i.Element))).Select(i => Of(l, i.Element))).OrderBy(w => w.Order)], IsFed);
    }

    /// <summary>Takes up what was kept; what waits for stations that are there no more is gone.</summary>
    public void Recall(TwoWireMemory memory)
    {
        (_idleSince, _begunAt, IsFed) = (memory.IdleSince, memory.BegunAt, memory.IsFed);
        _sending.Clear();
        foreach (Lane lane in _lanes) lane.Queue.Clear();
        var byKey = _lanes.ToDictionary(l => l.Station.Key);
        void Back(WaitingFrame kept, bool isOnTheWay)
        {
            if (!byKey.TryGetValue(kept.Station, out Lane? lane) || BusFrame.FromOctets(Convert.FromHexString(kept.Octets)) is not { } frame) return;
            var waiting = new Waiting(frame, kept.ReadyAt, kept.Order) { Repetition = kept.Repetition };
            Enqueue(lane, waiting);
            if (isOnTheWay) _sending.Add((lane, waiting));
            _order = Math.Max(_order, kept.Order + 1);
        }
        foreach (WaitingFrame kept in memory.OnTheWay) Back(kept, true);
        foreach (WaitingFrame kept in memory.Waiting) Back(kept, false);
        if (_sending.Count > 0) _endsAt = memory.EndsAt ?? _idleSince;
        _nextStart.IsKnown = false;
    }
}
