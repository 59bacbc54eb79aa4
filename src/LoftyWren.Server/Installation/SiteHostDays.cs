using System.Collections.Concurrent;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite;
using LoftyWren.VirtualSite.Devices;

namespace LoftyWren.Server.Installation;

/// <content>Copies of the site in which another program is tried beside the one that runs. Only taking the copy takes a turn.</content>
public sealed partial class SiteHost
{
    private const int MostDays = 4;
    private static readonly TimeSpan Abandoned = TimeSpan.FromMinutes(10);
    private readonly ConcurrentDictionary<int, (DayRehearsal Day, long UsedAt)> _days = new();
    private int _dayNumber;

    /// <inheritdoc/>
    public SiteCopy Copy() => Ask(SiteSnapshot.Of).ToCopy().WithoutSecrets();

    /// <inheritdoc/>
    public int BeginDay(RecordId host, string kind, byte[] image)
    {
        // Whoever began one may have gone without ending it.
        foreach (var (abandoned, _) in _days.Where(d => clock.GetElapsedTime(d.Value.UsedAt) > Abandoned)) _days.TryRemove(abandoned, out _);
        if (_days.Count >= MostDays) throw new InvalidOperationException($"{MostDays} days are rehearsed already. Wait until one of them has ended, or stop it.");
        var day = new DayRehearsal(Ask(SiteSnapshot.Of), host, kind, image);
        int number = Interlocked.Increment(ref _dayNumber);
        _days[number] = (day, clock.GetTimestamp());
        return number;
    }

    /// <inheritdoc/>
    public string? RunDay(int number, int minutes)
    {
        DayRehearsal day = Day(number);
        lock (day)
        {
            day.Run(Math.Clamp(minutes, 1, 60));
            return day.Failure;
        }
    }

    /// <inheritdoc/>
    public IReadOnlyList<PointDay> EndDay(int number)
    {
        DayRehearsal day = Day(number);
        _days.TryRemove(number, out _);
        lock (day) return day.Result;
    }

    private DayRehearsal Day(int number)
    {
        if (!_days.TryGetValue(number, out var known)) throw new InvalidOperationException("This rehearsal is not known any more. Begin it again.");
        _days.TryUpdate(number, known with { UsedAt = clock.GetTimestamp() }, known);
        return known.Day;
    }
}
