using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Live;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;
using LoftyWren.VirtualSite.Devices;
using NodaTime;

namespace LoftyWren.VirtualSite;

/// <summary>A copy of the site as it stood: what runs there, over its wires and networks. Sensors are simulated and outputs held on the copy; the site itself notices nothing.</summary>
public sealed class SiteStand : ITestStand
{
    private readonly Site _site;
    private readonly RecordId _sequence, _host;
    private readonly Dictionary<RecordId, PinValue> _given = [];

    /// <summary>Stands on a copy.</summary>
    /// <exception cref="InvalidOperationException">The sequence does not run there; the message says so.</exception>
    public SiteStand(SiteCopy copy, RecordId sequence)
    {
        (_site, _sequence) = (copy.Build(), sequence);
        _host = _site.Devices.Values.FirstOrDefault(d => d.Program?.Image.Records.Any(r => r.Id == sequence) == true)?.Id
            ?? throw new InvalidOperationException("This sequence does not run on the site. Review and send its controller first.");
        Zone = DateTimeZoneProviders.Tzdb[copy.Plan.TimeZone];
    }

    /// <inheritdoc/>
    public DateTimeZone Zone { get; }

    /// <inheritdoc/>
    public long? Stands => _site.Now;

    /// <inheritdoc/>
    public long NextDue => long.MaxValue;

    /// <inheritdoc/>
    public void Begin(long at)
    {
    }

    /// <inheritdoc/>
    public bool IsCommanded(RecordId point) => ProgramOf(point)?.ViewLadder(point) is not null;

    /// <inheritdoc/>
    public void Give(RecordId point, PinValue value)
    {
        if (IsCommanded(point))
        {
            if (value.IsUsable) Home(point).HoldByHand(new Hold(point, value.Value, "test", "set by the test", _site.Now, null));
        }
        else
        {
            (RecordId host, string terminal) = TerminalOf(point);
            _site.HoldInput(new InputHold(host, terminal, value.IsUsable ? value.Value : 0, "test", "set by the test", _site.Now, null, value.IsUsable ? null : new InputCourse([new CourseLeg(null, 0, 0)])));
        }
        _given[point] = value;
    }

    /// <inheritdoc/>
    public void Have(RecordId point, double value)
    {
        (RecordId host, string terminal) = TerminalOf(point);
        _site.HaveAt(host, terminal, value);
    }

    /// <inheritdoc/>
    public void LetGo(RecordId point)
    {
        _given.Remove(point);
        if (IsCommanded(point)) Home(point).ReleaseHold(point);
        else if (TerminalOf(point) is var (host, terminal)) _site.ReleaseInput(host, terminal);
    }

    /// <inheritdoc/>
    public Reading Present(RecordId point) => _given.TryGetValue(point, out PinValue given) ? new Reading(given.Value, given.Status, _site.Now) : ProgramOf(point)?.Read(point) ?? Reading.Released(_site.Now);

    /// <inheritdoc/>
    public void GoTo(long now) => _site.RunUntil(now);

    /// <inheritdoc/>
    public void CutPower(long milliseconds)
    {
        long until = _site.Now + milliseconds;
        _site.Order(_host, DeviceOrder.PowerOff);
        _site.RunUntil(until);
        _site.Order(_host, DeviceOrder.PowerOn);
    }

    /// <inheritdoc/>
    public ILiveSource? Watch(TestSubject subject) => subject.PointId is { } point ? Speaking(DeviceOf(point))?.Watch(point, "") : Speaking(_site.Devices[_host])?.Watch(_sequence, $"{subject.BlockId}/{subject.Pin}");

    // Of what is off, or stands still, nothing is known.
    private static IDeviceProgram? Speaking(InstalledDevice? device) => device is { Life: { Runs: true, Answers: true } } ? device.Program : null;

    /// <inheritdoc/>
    public long Turns => _site.Lives;

    /// <inheritdoc/>
    public Because? Explain(RecordId point) => ProgramOf(point)?.Explain(point);

    private IDeviceProgram? ProgramOf(RecordId point) => DeviceOf(point)?.Program;

    // Where each point lives: nothing is sent to a copy, so that stays.
    private readonly Dictionary<RecordId, InstalledDevice?> _homes = [];

    private InstalledDevice? DeviceOf(RecordId point)
    {
        if (!_homes.TryGetValue(point, out InstalledDevice? device))
            _homes[point] = device = _site.Devices.Values.FirstOrDefault(d => d.Program?.Home.Contains(point) == true) ?? (_site.Devices[_host].Program?.Read(point) is not null ? _site.Devices[_host] : null);
        return device;
    }

    private IDeviceProgram Home(RecordId point) => ProgramOf(point) ?? throw new InvalidOperationException("It is not installed on the site yet. Review and send its controller first.");

    private (RecordId Host, string Terminal) TerminalOf(RecordId point) =>
        Home(point).Image.Records.OfType<Fitting>().FirstOrDefault(f => f.PointId == point && f.Terminal != Fitting.MemoryTerminal) is { } fitting ? (fitting.ControllerId, fitting.Terminal)
            : throw new InvalidOperationException("It is on no terminal, so nothing can be put there in place of its sensor.");
}
