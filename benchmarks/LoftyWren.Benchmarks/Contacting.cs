using System.Diagnostics;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Protocols.Contact;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Commissioning;
using LoftyWren.Storage.Projects;
using LoftyWren.Storage.Site;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.Logging.Abstractions;

namespace LoftyWren.Benchmarks;

/// <summary>Controllers in their boxes, and the connections to them: set up at once, and sent.</summary>
internal sealed class Contacting : IDisposable
{
    private readonly Workspace _work;
    private readonly SiteHost _host;
    private readonly Contacts _contacts;
    private readonly Controller[] _controllers;
    private readonly string[] _serials;

    public Contacting(Project project, string folder, int most)
    {
        Directory.CreateDirectory(folder);
        _work = new Workspace(new ProjectStore(Path.Combine(folder, "project.db")), TimeProvider.System);
        if (!_work.Apply([.. project.Records.Select(r => Edit.Of(r))], "bench").Accepted) throw new InvalidOperationException("The project does not stand.");
        _host = new SiteHost(new SiteStore(Path.Combine(folder, "site.db")), TimeProvider.System, NullLogger<SiteHost>.Instance);
        _host.Open(SiteHost.Beginning);
        _contacts = new Contacts(new ContactStore(Path.Combine(folder, "contacts.db")), _work, new ImageCache(_work), _host, new EphemeralDataProtectionProvider());
        _controllers = [.. project.All<Controller>().OrderBy(c => c.Id).Take(most)];
        _serials = [.. _controllers.Select(c => _host.Hang("bench", "Hung", c.Id, ControllerImageBuilder.KindKey, ContactEndpoints.BoxOf(project, c, new LinkQuality(10_000_000, 0, 0))))];
    }

    public int Count => _controllers.Length;

    private static JobContext Job => new((_, _, _) => { }, CancellationToken.None);

    private Sending Sending => new(_work, _host, _contacts, new DayRehearsals(_work, _host, new ImageCache(_work)), TimeProvider.System) { Waiting = () => _host.RunAhead(_host.Pulse().Now + 2000) };

    /// <summary>Sets some of them up at once; answers how long that took, s.</summary>
    public async Task<double> SetUp(int from, int count)
    {
        IReadOnlyList<Discovered> found = await _contacts.Discover(null, default);
        long began = Stopwatch.GetTimestamp();
        await Task.WhenAll(Enumerable.Range(from, count).Select(i => Task.Run(async () =>
        {
            Discovered one = found.Single(d => d.Serial == _serials[i]);
            ContactLook look = await _contacts.Look(_controllers[i], new ContactPlace(one.Host, one.Port), default);
            _contacts.Type(_controllers[i].Id, new DeviceSecrets([new DeviceAccount("contractor", "blue-glaze-77")], "three pots on a shelf"));
            await Sending.SetUp(new SetUpOrder(_controllers[i].Id, _serials[i], one.Host, one.Port, look.Seen.Fingerprint, true, Build: false), "bench", Job);
        })));
        return Stopwatch.GetElapsedTime(began).TotalSeconds;
    }

    /// <summary>Sends one controller after an edit; answers how long that took, s, and how many bytes went.</summary>
    public async Task<(double Seconds, long Bytes)> Send(Func<Controller, Edit> edit)
    {
        Controller controller = _work.Project.Find<Controller>(_controllers[0].Id)!;
        _work.Apply([edit(controller)], "bench");
        await using (ContactClient client = await _contacts.Open(controller, default))
        {
            long bytes = _contacts.Plan(_work.Project.Find(controller.Id)!, (await client.Report()).Parts).Bytes;
            long began = Stopwatch.GetTimestamp();
            await Sending.Send(new SendOrder(controller.Id, Build: false), "bench", Job);
            return (Stopwatch.GetElapsedTime(began).TotalSeconds, bytes);
        }
    }

    /// <summary>One record of what a controller runs, changed.</summary>
    public Edit OneRecord(Controller controller, double fallback)
    {
        Point point = _work.Project.Referrers<Fitting>(controller.Id).Select(f => _work.Project.Find<Point>(f.PointId)!).First(p => p.Role != PointRole.Sensor && p.Kind == PointKind.Analog);
        return Edit.Of(point with { Fallback = fallback });
    }

    public void Dispose()
    {
        _host.CloseDoors();
        _host.Dispose();
    }
}
