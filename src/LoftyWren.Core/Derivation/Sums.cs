using LoftyWren.Core.Collections;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Derivation;

/// <summary>Something that adds up over what hangs on a record: samples in a controller's memory, the load of a line, the current drawn from a supply. In whole numbers of a unit, so that adding and taking away never drifts.</summary>
public sealed class SumSort(string name, string unit)
{
    /// <summary>What it is.</summary>
    public string Name { get; } = name;

    /// <summary>What it is counted in.</summary>
    public string Unit { get; } = unit;

    /// <inheritdoc/>
    public override string ToString() => $"{Name} ({Unit})";
}

/// <summary>What one record adds to a sum, and at which record that is added up.</summary>
public readonly record struct Share(RecordId Hub, SumSort Of, long Amount);

/// <summary>
/// Sums over what hangs on a record, kept while the project changes: an edit costs what it adds or takes away, however many
/// others hang there. A record says what it adds (<see cref="ProjectRecord.Shares"/>); one that ties two others together says
/// that what adds up at the one counts at the other too (<see cref="ProjectRecord.Carries"/>), and so on upwards.
/// </summary>
internal sealed class Sums
{
    private const int Deepest = 32;
    private readonly PersistentMap<RecordId, PersistentMap<SumSort, long>> _at;
    private readonly PersistentMap<RecordId, (RecordId By, RecordId To)> _carried;

    private Sums(PersistentMap<RecordId, PersistentMap<SumSort, long>> at, PersistentMap<RecordId, (RecordId By, RecordId To)> carried) => (_at, _carried) = (at, carried);

    public static Sums Empty { get; } = new(PersistentMap<RecordId, PersistentMap<SumSort, long>>.Empty, PersistentMap<RecordId, (RecordId, RecordId)>.Empty);

    public long At(RecordId hub, SumSort of) => _at.GetValueOrDefault(hub)?.GetValueOrDefault(of) ?? 0;

    /// <summary>All sums there are.</summary>
    public IEnumerable<(RecordId Hub, SumSort Of, long Amount)> All => _at.SelectMany(hub => hub.Value.Select(sum => (hub.Key, sum.Key, sum.Value)));

    /// <summary>The records at which what adds up at this one counts too, nearest first.</summary>
    public IEnumerable<RecordId> Above(RecordId hub)
    {
        for (int depth = 0; depth < Deepest && _carried.TryGetValue(hub, out var carried); depth++) yield return hub = carried.To;
    }

    /// <summary>The sums with some records gone and others come. After each step what adds up at a record is what is added there and what is carried there.</summary>
    public Sums After(IEnumerable<ProjectRecord> left, IReadOnlyCollection<ProjectRecord> arriving)
    {
        var at = _at.ToBuilder();
        var carried = _carried.ToBuilder();
        bool isChanged = false;
        void Add(RecordId hub, SumSort of, long amount)
        {
            if (amount == 0) return;
            isChanged = true;
            for (int depth = 0; depth < Deepest; depth++)
            {
                PersistentMap<SumSort, long> here = at.GetValueOrDefault(hub) ?? PersistentMap<SumSort, long>.Empty;
                long sum = here.GetValueOrDefault(of) + amount;
                here = sum == 0 ? here.Without(of) : here.With(of, sum);
                if (here.Count == 0) at.Remove(hub);
                else at[hub] = here;
                if (!carried.TryGetValue(hub, out var up)) return;
                hub = up.To;
            }
        }
        void Move(RecordId from, RecordId to, int sign)
        {
            isChanged = true;
            foreach (var (of, amount) in at.GetValueOrDefault(from) ?? PersistentMap<SumSort, long>.Empty) Add(to, of, sign * amount);
        }
        foreach (ProjectRecord record in left)
        {
            if (record.Carries is { } tie && carried.TryGetValue(tie.From, out var held) && held.By == record.Id)
            {
                carried.Remove(tie.From);
                Move(tie.From, held.To, -1);
            }
        }
        foreach (ProjectRecord record in left)
        {
            foreach (Share share in record.Shares()) Add(share.Hub, share.Of, -share.Amount);
        }
        foreach (ProjectRecord record in arriving)
        {
            foreach (Share share in record.Shares()) Add(share.Hub, share.Of, share.Amount);
        }
        foreach (ProjectRecord record in arriving)
        {
            // Two that tie the same are refused elsewhere; the first counts.
            if (record.Carries is not { } tie || carried.TryGetValue(tie.From, out _)) continue;
            Move(tie.From, tie.To, 1);
            carried[tie.From] = (record.Id, tie.To);
        }
        return isChanged ? new Sums(at.ToImmutable(), carried.ToImmutable()) : this;
    }
}
