using System.Collections.Concurrent;
using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography.X509Certificates;
using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Images;
using LoftyWren.Core.Records;
using LoftyWren.Protocols.Contact;
using LoftyWren.VirtualSite.Devices;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.Server.Installation;

/// <content>The connections of what hangs: each device at a port of its own, and one at which all are asked who is there.</content>
public sealed partial class SiteHost
{
    private readonly ConcurrentDictionary<RecordId, DeviceListener> _doors = new();
    private readonly Lock _opening = new();
    private UdpClient? _questions;

    /// <summary>Told before a frame is carried to a device or from it; what breaks just there can be tried so.</summary>
    internal Action<RecordId>? Carrying { get; set; }

    /// <inheritdoc/>
    public string Hang(string who, string what, RecordId host, string kind, BoxedDevice box)
    {
        var device = new InstalledDevice(host, kind)
        {
            Door = DeviceDoor.OutOfTheBox(box.ModelId, box.LoaderVersion, ImageParts.LoaderKilobytes * 1024, Firmware.HashOf(box.ModelId, ImageParts.Loader, box.LoaderVersion, ImageParts.LoaderKilobytes), Ask(s => s.Now), box.Link, Chance.SeedOf(host.Value)),
        };
        Command(who, what, host, s =>
        {
            // What was kept of the one before is not this one's.
            _keptImages.Remove(host);
            return s.Exchange(device);
        }, host);
        OpenDoors();
        return device.Door.Serial;
    }

    /// <inheritdoc/>
    public void TakeDown(string who, string what, RecordId host)
    {
        Command(who, what, host, s =>
        {
            if (!s.Devices.ContainsKey(host)) throw new InvalidOperationException("Nothing hangs there any more.");
            // Its parts are written empty, beside the trail of who took it down.
            _gone.Add(host);
            Action back = s.TakeDown(host);
            return () =>
            {
                _gone.Remove(host);
                back();
            };
        });
        if (_doors.TryRemove(host, out DeviceListener? door)) door.Dispose();
    }

    /// <inheritdoc/>
    public IReadOnlyList<HeldInput> HeldInputs() => Ask(s => s.InputHolds.Select(h => new HeldInput(h.ControllerId, h.Terminal)).ToList());

    /// <inheritdoc/>
    public void SetLink(string who, string what, RecordId host, LinkQuality link) => Command(who, what, host, s =>
    {
        if (s.Devices.GetValueOrDefault(host) is not { Door: not null } device) throw new InvalidOperationException("Nothing hangs there. Hang it first.");
        Generation++;
        return s.Carry(device, link);
    }, host);

    /// <inheritdoc/>
    public IReadOnlyList<HungDevice> Hung() => Ask(s => s.Devices.Values.Where(d => d.Door is not null).Select(d => new HungDevice(d.Id, d.Door!.Serial, d.Door.Link, d.Door.Port)).ToList());

    /// <inheritdoc/>
    public int DiscoveryPort() => (_questions?.Client.LocalEndPoint as IPEndPoint)?.Port ?? 0;

    /// <summary>Listens for whoever hangs and is not listened for yet.</summary>
    private void OpenDoors()
    {
        lock (_opening)
        {
            foreach (InstalledDevice device in Ask(s => s.Devices.Values.Where(d => d.Door is not null).ToList()))
            {
                if (_doors.TryGetValue(device.Id, out DeviceListener? there))
                {
                    if (ReferenceEquals(there.Device, device)) continue;
                    there.Dispose();
                }
                var listener = new DeviceListener(this, device);
                _doors[device.Id] = listener;
                if (device.Door!.Port != listener.Port) Ask(_ => device.Door = device.Door! with { Port = listener.Port });
            }
            if (_doors.IsEmpty || _questions is not null) return;
            _questions = new UdpClient(new IPEndPoint(IPAddress.Loopback, 0));
            _ = AnswerQuestions(_questions);
        }
    }

    internal void CloseDoors()
    {
        lock (_opening)
        {
            foreach (DeviceListener listener in _doors.Values) listener.Dispose();
            _doors.Clear();
            _questions?.Dispose();
            _questions = null;
        }
    }

    private async Task AnswerQuestions(UdpClient socket)
    {
        while (true)
        {
            try
            {
                UdpReceiveResult asked = await socket.ReceiveAsync();
                if (Discovery.NonceOf(asked.Buffer) is not { } nonce) continue;
                foreach (DeviceListener listener in _doors.Values.OrderBy(d => d.Device.Door!.Serial, StringComparer.Ordinal))
                {
                    DeviceDoor door = listener.Device.Door!;
                    if (!IsReached(listener.Device)) continue;
                    await socket.SendAsync(Discovery.Say(nonce, new Discovered(door.Serial, door.ModelId, door.Settings?.Name ?? "", door.IsFactory, "", listener.Port)), asked.RemoteEndPoint);
                }
            }
            catch (ObjectDisposedException)
            {
                return;
            }
            catch (SocketException)
            {
                // Whoever asked has gone; the next is answered.
                if (socket.Client is null) return;
            }
        }
    }

    /// <summary>Whether a connection reaches a device: it answers, and what carries to it is not cut.</summary>
    internal bool IsReached(InstalledDevice device) => Ask(s => ReferenceEquals(s.Devices.GetValueOrDefault(device.Id), device) && device.Life.Answers && device.Door is not null);

    /// <summary>Does something to a device for whoever has signed in there, and keeps it before it is answered.</summary>
    internal void Keep(InstalledDevice device, Func<VirtualSite.Site, Action?> change) => Kept(null, change, [device.Id]);

    /// <summary>Lets a device change over to what was transferred. All that takes time is made ready before the turn in which it changes.</summary>
    internal int ChangeOver(InstalledDevice device, ActivateOrder order)
    {
        ReadyProgram ready = InstalledDevice.MakeReady(Ask(_ => device.Sent()));
        var parts = Ask(_ => device.SentParts(order.Parts));
        int version = Ask(_ => device.Version) + 1;
        Command(order.Who, $"Sent {order.Name}, version {version}", device.Id, s =>
        {
            var present = device.Present;
            s.CheckPorts(ready.Program);
            Core.Devices.DeviceLife life = device.Life;
            device.ChangeOver(ready, order.Who, clock.GetUtcNow().ToUnixTimeMilliseconds(), parts);
            Action? stop = null;
            if (parts.Count > 0) stop = s.StartRenewed(device, order.StartsNow);
            else
            {
                device.Revive(life.Activated(s.Now, version));
                s.Connect(device.Id);
            }
            return () =>
            {
                stop?.Invoke();
                device.GoBack(present);
                device.Revive(life);
                s.Connect(device.Id);
            };
        }, device.Id);
        return version;
    }
}

/// <summary>Listens for one device at a port of this machine, and answers as the device would.</summary>
internal sealed class DeviceListener : IDisposable
{
    // Whoever has signed in keeps a connection; who has not may be many, and makes room for the next before long.
    private const int MostSignedIn = 8, MostCallers = 32;
    private readonly SiteHost _host;
    private readonly TcpListener _listener;
    private readonly CancellationTokenSource _stop = new();
    private readonly SemaphoreSlim _free = new(MostSignedIn, MostSignedIn);
    private readonly LinkedList<(TcpClient Caller, DeviceSession Session)> _callers = new();

    public DeviceListener(SiteHost host, InstalledDevice device)
    {
        (_host, Device) = (host, device);
        _listener = Listen(device.Door!.Port);
        Port = ((IPEndPoint)_listener.LocalEndpoint).Port;
        _ = Accept();
    }

    public InstalledDevice Device { get; }

    public int Port { get; }

    // Where it was before, so that whoever remembers finds it; where somebody else is there now, anywhere.
    private static TcpListener Listen(int port)
    {
        try
        {
            var listener = new TcpListener(IPAddress.Loopback, port);
            listener.Start();
            return listener;
        }
        catch (SocketException) when (port != 0)
        {
            return Listen(0);
        }
    }

    private async Task Accept()
    {
        using X509Certificate2 own = X509CertificateLoader.LoadPkcs12(Device.Door!.Certificate, null);
        // It is its own authority: nobody else has to be looked up for it.
        var certificate = SslStreamCertificateContext.Create(own, null, offline: true);
        try
        {
            while (!_stop.IsCancellationRequested)
            {
                TcpClient caller = await _listener.AcceptTcpClientAsync(_stop.Token);
                // A device that is off, or at the end of a cut wire, takes no call.
                if (!_host.IsReached(Device)) caller.Dispose();
                else _ = Answer(caller, certificate);
            }
        }
        catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException or SocketException)
        {
            // It hangs no more.
        }
    }

    private async Task Answer(TcpClient caller, SslStreamCertificateContext certificate)
    {
        var session = new DeviceSession(_host, Device, _free);
        LinkedListNode<(TcpClient Caller, DeviceSession Session)> own;
        lock (_callers)
        {
            // The one that has waited longest without signing in goes.
            for (var first = _callers.First; _callers.Count >= MostCallers && first is not null; first = first.Next)
            {
                if (first.Value.Session.IsSignedIn) continue;
                first.Value.Caller.Dispose();
                _callers.Remove(first);
                break;
            }
            own = _callers.AddLast((caller, session));
        }
        try
        {
            using (caller)
            {
                caller.NoDelay = true;
                await ContactServing.Serve(caller.GetStream(), certificate, session, Carry, _stop.Token);
            }
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException or OperationCanceledException or InvalidOperationException)
        {
            // The caller hung up.
        }
        finally
        {
            session.End();
            lock (_callers)
            {
                if (own.List is not null) _callers.Remove(own);
            }
        }
    }

    private readonly Lock _way = new();
    private double _owed;
    private int _frames;

    // As long as the way takes, in the time of this machine: waits are gathered, since a short one is never exact.
    private async Task<bool> Carry(int bytes)
    {
        _host.Carrying?.Invoke(Device.Id);
        LinkQuality link = Device.Door!.Link;
        if (link.LossPercent >= 100) return false;
        double takes = (bytes * 8 / Math.Max(1, link.KilobitsPerSecond)) + (link.RoundTripMilliseconds / 2);
        // Of a hundred frames so many go twice.
        int wait;
        lock (_way)
        {
            if (link.LossPercent > 0 && ++_frames % Math.Max(1, (int)Math.Round(100 / link.LossPercent)) == 0) takes *= 2;
            _owed += takes;
            if (_owed < 20) return true;
            wait = (int)_owed;
            _owed -= wait;
        }
        await Task.Delay(wait, _stop.Token);
        return Device.Door!.Link.LossPercent < 100;
    }

    public void Dispose()
    {
        _stop.Cancel();
        _listener.Stop();
    }
}
