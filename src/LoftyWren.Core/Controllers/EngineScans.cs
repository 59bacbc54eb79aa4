using LoftyWren.Core.Devices;
using LoftyWren.Core.Live;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Controllers;

/// <summary>When the keeping of scans stops: when a value, told by its address, comes to meet a condition that it did not meet the scan before.</summary>
public sealed record ScanStop(string Address, TestCondition Condition);

/// <summary>The scans of a sequence that are kept: what is kept of each, by address, and how it is said; the number of the first; when each was, ms of site time; what stops it, and the number of the scan at which that was.</summary>
public sealed record KeptScans(IReadOnlyList<string> Addresses, IReadOnlyList<ValueForm> Forms, long First, IReadOnlyList<long> At, ScanStop? Stop, long? StoppedAt);

/// <summary>Keeps the last scans of sequences while somebody looks at them, value by value, so that one can step back through them.</summary>
public interface IScanKeeper
{
    /// <summary>Begins to keep the scans of a sequence, or goes on where the same is kept already; what stopped goes on anew. Null where it does not run here.</summary>
    KeptScans? Keep(RecordId sequence, IReadOnlyList<string> addresses, ScanStop? stop);

    /// <summary>The scans that are kept of a sequence; null where none are.</summary>
    KeptScans? Kept(RecordId sequence);

    /// <summary>The values of a scan by its number, in the order of the addresses; null where it is not kept, or no longer.</summary>
    IReadOnlyList<Reading>? Scan(RecordId sequence, long number);

    /// <summary>One value over all scans that are kept; null where it is not.</summary>
    IReadOnlyList<Reading>? Course(RecordId sequence, string address);
}

/// <content>The last scans of the sequences that somebody looks at.</content>
public sealed partial class ControllerEngine : IScanKeeper
{
    /// <summary>How many scans are kept of a sequence, how many sequences at a time, how many values of each scan, and how many scans after the one that stops it.</summary>
    public const int MostScans = 600, MostKept = 4, MostAddresses = 1000, ScansAfterStop = 30;

    private readonly List<ScanRing> _rings = [];

    /// <summary>The last scans of one sequence; all room is taken when it begins, so that a scan takes none.</summary>
    private sealed class ScanRing(RunningSequence running, IReadOnlyList<string> addresses, ILiveSource?[] sources)
    {
        private readonly long[] _at = new long[MostScans];
        private readonly PinValue[] _values = new PinValue[MostScans * sources.Length];
        private int _watched = -1, _left;
        private bool _met = true;

        public RunningSequence Running { get; } = running;

        public IReadOnlyList<string> Addresses { get; } = addresses;

        public ScanStop? Stop { get; private set; }

        public long Count { get; private set; }

        public long? StoppedAt { get; private set; }

        public long First => Math.Max(1, Count - MostScans + 1);

        public void StopOn(ScanStop? stop)
        {
            (Stop, StoppedAt, _left, _met) = (stop, null, 0, true);
            _watched = stop is null ? -1 : Addresses.ToList().IndexOf(stop.Address);
        }

        public void Note(long now)
        {
            if (StoppedAt is not null && _left-- <= 0) return;
            int at = (int)(Count++ % MostScans);
            _at[at] = now;
            for (int i = 0; i < sources.Length; i++)
            {
                Reading reading = sources[i]?.Read() ?? Reading.Released(now);
                _values[(at * sources.Length) + i] = new PinValue(reading.Value, reading.Status);
                if (i != _watched || StoppedAt is not null) continue;
                bool isMet = Stop!.Condition.IsMetBy(reading);
                if (isMet && !_met) (StoppedAt, _left) = (Count, ScansAfterStop);
                _met = isMet;
            }
        }

        public IReadOnlyList<Reading>? Scan(long number) => number < First || number > Count ? null : [.. Enumerable.Range(0, sources.Length).Select(i => At(number, i))];

        public IReadOnlyList<Reading>? Course(string address) => Addresses.ToList().IndexOf(address) is >= 0 and var i ? [.. Numbers().Select(n => At(n, i))] : null;

        public KeptScans View() => new(Addresses, [.. sources.Select(s => s?.Form ?? ValueForm.Number)], First, [.. Numbers().Select(n => _at[(int)((n - 1) % MostScans)])], Stop, StoppedAt);

        private IEnumerable<long> Numbers()
        {
            for (long n = First; n <= Count; n++) yield return n;
        }

        private Reading At(long number, int i)
        {
            int at = (int)((number - 1) % MostScans);
            PinValue value = _values[(at * sources.Length) + i];
            return new Reading(value.Value, value.Status, _at[at]);
        }
    }

    /// <inheritdoc/>
    public KeptScans? Keep(RecordId sequence, IReadOnlyList<string> addresses, ScanStop? stop)
    {
        if (Array.Find(_sequences, s => s.Sequence.Id == sequence) is not { } running) return null;
        if (addresses.Count > MostAddresses) addresses = [.. addresses.Take(MostAddresses)];
        ScanRing? ring = _rings.Find(r => r.Running == running);
        if (ring is not null && !ring.Addresses.SequenceEqual(addresses))
        {
            _rings.Remove(ring);
            ring = null;
        }
        if (ring is null)
        {
            if (_rings.Count >= MostKept) _rings.RemoveAt(0);
            _rings.Add(ring = new ScanRing(running, addresses, [.. addresses.Select(SourceAt)]));
            ring.StopOn(stop);
        }
        else if (ring.Stop != stop || ring.StoppedAt is not null) ring.StopOn(stop);
        return ring.View();
    }

    /// <inheritdoc/>
    public KeptScans? Kept(RecordId sequence) => _rings.Find(r => r.Running.Sequence.Id == sequence)?.View();

    /// <inheritdoc/>
    IReadOnlyList<Reading>? IScanKeeper.Scan(RecordId sequence, long number) => _rings.Find(r => r.Running.Sequence.Id == sequence)?.Scan(number);

    /// <inheritdoc/>
    public IReadOnlyList<Reading>? Course(RecordId sequence, string address) => _rings.Find(r => r.Running.Sequence.Id == sequence)?.Course(address);

    /// <inheritdoc/>
    IScanKeeper? IDeviceProgram.Scans => this;

    private ILiveSource? SourceAt(string address) => LiveAddress.Read(address) is var (id, part) ? Watch(id, part) : null;
}
