using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.VirtualSite.Devices;

/// <summary>A point that went otherwise under another program: for how many of the minutes, how far at most, when first (ms of site time) and between what; and its means under each.</summary>
/// <param name="PointId">The point.</param>
/// <param name="Minutes">In how many of the minutes the two differed.</param>
/// <param name="Most">How far at most, in the unit of the point; 0 where only its status differed or one had no value.</param>
/// <param name="FirstAt">When first, ms of site time.</param>
/// <param name="Before">What the program that runs had then.</param>
/// <param name="After">What the other had then.</param>
/// <param name="MeanBefore">The mean under the program that runs, null where it never had a value.</param>
/// <param name="MeanAfter">The mean under the other.</param>
public sealed record PointDay(RecordId PointId, int Minutes, double Most, long FirstAt, Reading? Before, Reading? After, double? MeanBefore, double? MeanAfter);

/// <summary>
/// Two copies of a site side by side: one goes on as it is, in the other a device changes over to another program. Both have the
/// same weather, plant and chance, so that what differs comes from the program alone.
/// </summary>
public sealed class DayRehearsal
{
    private const double Same = 1e-9;
    private readonly Site _before, _after;
    private readonly RecordId _host;
    private readonly Dictionary<RecordId, Tally> _tallies = [];
    private readonly RecordId[] _points;

    /// <summary>Makes the two ready.</summary>
    /// <exception cref="InvalidOperationException">The other program cannot run; the message says why.</exception>
    public DayRehearsal(SiteSnapshot snapshot, RecordId host, string kind, byte[] image)
    {
        (_before, _after, _host) = (snapshot.Build(), snapshot.Build(), host);
        Send(_after, kind, image);
        // A change-over shifts by itself when devices hear of each other; both have one, so that it is not taken for the program's doing.
        if (_before.Devices[host].ImageBytes is { } runs) Send(_before, kind, runs);
        _points = [.. Home(_before).Union(Home(_after)).Order()];
    }

    private void Send(Site site, string kind, byte[] image)
    {
        InstalledDevice device = site.Mount(_host, kind);
        device.BeginSend(image.Length, Core.Images.HostKinds.HashOf(image));
        device.Receive(0, image);
        ReadyProgram ready = InstalledDevice.MakeReady(device.Sent());
        site.CheckPorts(ready.Program);
        device.ChangeOver(ready, "", 0);
        site.Connect(_host);
    }

    /// <summary>How many minutes were compared.</summary>
    public int Minutes { get; private set; }

    /// <summary>Why the other program failed, once it has.</summary>
    public string? Failure => _after.Devices[_host].Life.Trouble;

    private IEnumerable<RecordId> Home(Site site) => site.Devices.GetValueOrDefault(_host)?.Program?.Home ?? [];

    /// <summary>Runs both on by some minutes.</summary>
    public void Run(int minutes)
    {
        for (int i = 0; i < minutes; i++)
        {
            long now = _before.Now + 60_000;
            _before.RunUntil(now);
            _after.RunUntil(now);
            Minutes++;
            foreach (RecordId point in _points) Compare(point, now);
        }
    }

    private void Compare(RecordId point, long now)
    {
        Reading? before = _before.Devices[_host].Program?.Read(point), after = _after.Devices[_host].Program?.Read(point);
        if (!_tallies.TryGetValue(point, out Tally? tally)) _tallies[point] = tally = new Tally();
        tally.Take(before, after, now);
    }

    /// <summary>The points that went otherwise, those that did so longest first.</summary>
    public IReadOnlyList<PointDay> Result => [.. _tallies.Where(t => t.Value.Minutes > 0).Select(t => t.Value.Of(t.Key)).OrderByDescending(d => d.Minutes).ThenBy(d => d.PointId)];

    private sealed class Tally
    {
        private double _most, _sumBefore, _sumAfter;
        private int _countBefore, _countAfter;
        private long _firstAt;
        private Reading? _before, _after;

        public int Minutes { get; private set; }

        public void Take(Reading? before, Reading? after, long now)
        {
            if (before is { IsUsable: true } b)
            {
                _sumBefore += b.Value;
                _countBefore++;
            }
            if (after is { IsUsable: true } a)
            {
                _sumAfter += a.Value;
                _countAfter++;
            }
            bool haveBoth = before is { IsReleased: false } && after is { IsReleased: false };
            // Two faults without a value are alike.
            double off = haveBoth && !before!.Value.Value.Equals(after!.Value.Value) ? Math.Abs(before.Value.Value - after.Value.Value) : 0;
            if (haveBoth ? off <= Same && before!.Value.Status == after!.Value.Status : before is null or { IsReleased: true } && after is null or { IsReleased: true }) return;
            if (Minutes++ == 0) (_firstAt, _before, _after) = (now, before, after);
            if (!double.IsNaN(off)) _most = Math.Max(_most, off);
        }

        public PointDay Of(RecordId point) => new(point, Minutes, _most, _firstAt, _before, _after, _countBefore == 0 ? null : _sumBefore / _countBefore, _countAfter == 0 ? null : _sumAfter / _countAfter);
    }
}
