using System.Diagnostics;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Server.Installation;
using LoftyWren.Server.Live;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.History;
using LoftyWren.Storage.Site;
using LoftyWren.VirtualSite.Plant;
using Microsoft.Extensions.Logging.Abstractions;

namespace LoftyWren.Benchmarks;

/// <summary>A project with all its controllers installed, under the host that commands and keeps the site.</summary>
internal sealed class Installed
{
    private readonly Project _project;
    private readonly SiteHost _host;
    private readonly SiteServer _server;
    private readonly Controller[] _controllers;
    private readonly RecordId[] _outputs;
    private int _n;

    public Installed(Project project, string folder)
    {
        Directory.CreateDirectory(folder);
        _project = project;
        _host = new SiteHost(new SiteStore(Path.Combine(folder, "site.db")), TimeProvider.System, NullLogger<SiteHost>.Instance);
        _host.Open(SiteHost.Beginning);
        _server = new SiteServer(_host, new HistoryStore(Path.Combine(folder, "history.db")), TimeProvider.System, NullLogger<SiteHost>.Instance);
        _host.Build("bench", "Built", SiteBuilder.Build(project, _host.Plan()), null);
        _controllers = [.. project.All<Controller>().OrderBy(c => c.Id)];
        foreach (Controller controller in _controllers) Send(controller);
        _outputs = [.. project.All<Core.Points.Point>().Where(p => p.Role == Core.Points.PointRole.Command).Select(p => p.Id).Order()];
        _server.RunAheadTo(SiteHost.Beginning + 60_000);
    }

    public void Hold()
    {
        RecordId point = _outputs[_n++ * 7 % _outputs.Length];
        _host.Hold("bench", "Held", new HoldOrder(point, 50, "a figure", null));
    }

    public void Release()
    {
        RecordId point = _outputs[_n++ * 7 % _outputs.Length];
        _host.Release("bench", "Released", point);
    }

    public void Send() => Send(_controllers[_n++ * 3 % _controllers.Length]);

    /// <summary>The whole site kept, as it is every few seconds: what the longest of those who ask meanwhile waits, in ms; and the same while one room is built.</summary>
    public (double Keeping, double Building) Keeping()
    {
        double Longest(Action act)
        {
            act();
            var done = Task.Run(act);
            double longest = 0;
            while (!done.IsCompleted)
            {
                long from = Stopwatch.GetTimestamp();
                _host.Ask(_ => 0);
                longest = Math.Max(longest, Stopwatch.GetElapsedTime(from).TotalMilliseconds);
                Thread.Sleep(1);
            }
            done.GetAwaiter().GetResult();
            return longest;
        }
        return (Longest(_host.Keep), Longest(() =>
        {
            SitePlan plan = _host.Plan();
            _host.Build("bench", "Built", plan with { Rooms = [.. plan.Rooms, plan.Rooms[0] with { Id = new($"more-{_n++}") }] }, null);
        }));
    }

    /// <summary>Many sends started together, while somebody asks the site for nothing again and again: what half of the asks wait at most, and what the longest waits, in ms.</summary>
    public (double Typical, double Longest) ManySends(int count)
    {
        var sends = Task.WhenAll(_controllers.Take(count).Select(c => Task.Run(() => Send(c))));
        var waits = new List<double>();
        while (!sends.IsCompleted)
        {
            long from = Stopwatch.GetTimestamp();
            _host.Ask(_ => 0);
            waits.Add(Stopwatch.GetElapsedTime(from).TotalMilliseconds);
            Thread.Sleep(1);
        }
        waits.Sort();
        return (waits[waits.Count / 2], waits[^1]);
    }

    /// <summary>
    /// So many browsers with so many values each, none of them shared with the next, at 60 times real time; one browser takes
    /// a second for each message. What half and what 99 of 100 messages take from the scan to the browser, in ms.
    /// </summary>
    public (double Typical, double Late) Live(int browsers, int each)
    {
        RecordId[] points = [.. _project.All<Core.Points.Point>().Select(p => p.Id).Order()];
        var waits = new System.Collections.Concurrent.ConcurrentQueue<double>();
        long scanned = 0;
        var board = new LiveBoard(_host, async (who, values, gone) =>
        {
            if (who == "0") await Task.Delay(1000, gone);
            else if (Volatile.Read(ref scanned) != 0) waits.Enqueue(Stopwatch.GetElapsedTime(Volatile.Read(ref scanned)).TotalMilliseconds);
            // What a browser gets is written as the hub writes it.
            System.Text.Json.JsonSerializer.SerializeToUtf8Bytes(values, RecordJson.Options);
        });
        for (int b = 0; b < browsers; b++) board.Watch($"{b}", [.. Enumerable.Range(0, each).Select(i => $"p:{points[((b * each) + i) % points.Length]}")]);
        for (int i = 0; i < 30; i++)
        {
            long from = Stopwatch.GetTimestamp();
            _host.Ask(s =>
            {
                s.RunUntil(s.Now + 20_000);
                return 0;
            });
            Volatile.Write(ref scanned, Stopwatch.GetTimestamp());
            board.Look();
            Thread.Sleep(Math.Max(0, 330 - (int)Stopwatch.GetElapsedTime(from).TotalMilliseconds));
        }
        for (int b = 0; b < browsers; b++) board.Forget($"{b}");
        double[] sorted = [.. waits.Order()];
        return (sorted[sorted.Length / 2], sorted[(int)(sorted.Length * 0.99)]);
    }

    /// <summary>What a controller does when it is sent over its connection, without the way to it.</summary>
    private void Send(Controller controller)
    {
        SiteBuilding.BuildFor(_project, controller, _host, "bench");
        byte[] bytes = Core.Images.HostKinds.Build(_project, controller).ToBytes();
        var device = _host.Ask(s => s.Mount(controller.Id));
        _host.Ask(_ => device.BeginSend(bytes.Length, Core.Images.HostKinds.HashOf(bytes)));
        _host.Ask(_ =>
        {
            device.Receive(0, bytes);
            return 0;
        });
        _host.ChangeOver(device, new Core.Commissioning.ActivateOrder("bench", controller.Name, [], true));
    }
}
