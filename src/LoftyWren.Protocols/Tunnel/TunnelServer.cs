using System.Collections.Concurrent;
using System.Net;
using System.Net.Sockets;
using System.Threading.Channels;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Lines;

namespace LoftyWren.Protocols.Tunnel;

/// <summary>A line as an interface has it.</summary>
public interface ITunnelLine
{
    /// <summary>What the interface is now.</summary>
    TunnelIdentity Identity { get; }

    /// <summary>Opens a way to the line; answers by which address it speaks, or null where the interface does not answer. What is heard and what was sent comes by the two calls.</summary>
    IndividualAddress? Open(int tunnel, Action<BusFrame> heard, Action<BusFrame, bool> sent);

    /// <summary>Closes it.</summary>
    void Close(int tunnel);

    /// <summary>Has something sent.</summary>
    void Say(int tunnel, BusFrame frame);
}

/// <summary>
/// An interface at a port: it answers who it is, opens up to four tunnels, carries what comes through them to the line and what
/// the line says to them. What is not acknowledged within a second goes once more, then the tunnel is closed; so is one whose
/// program has not been heard of for two minutes.
/// </summary>
public sealed class TunnelServer : IDisposable
{
    private const int MostTunnels = 4;
    private static readonly TimeSpan AckWithin = TimeSpan.FromSeconds(1), HeardWithin = TimeSpan.FromSeconds(120);
    private readonly ITunnelLine _line;
    private readonly UdpClient _socket;
    private readonly CancellationTokenSource _stop = new();
    private readonly ConcurrentDictionary<int, Tunnel> _tunnels = new();

    private sealed class Tunnel(int number, IPEndPoint control, IPEndPoint data)
    {
        public int Number => number;
        public IPEndPoint Control => control;
        public IPEndPoint Data => data;
        public int Expects;
        public int Next;
        public long HeardAt = Environment.TickCount64;
        public volatile TaskCompletionSource<int>? Ack;
        // One whose program does not take what comes loses the newest: the line waits for nobody.
        public Channel<byte[]> Out { get; } = Channel.CreateBounded<byte[]>(new BoundedChannelOptions(4096) { FullMode = BoundedChannelFullMode.DropWrite, SingleReader = true });

        public bool IsOf(IPEndPoint from) => from.Equals(Control) || from.Equals(Data);
    }

    /// <summary>Listens at a port of this machine alone; 0 for any that is free.</summary>
    public TunnelServer(ITunnelLine line, int port = 0)
    {
        _line = line;
        _socket = new UdpClient(new IPEndPoint(IPAddress.Loopback, port));
        _ = Listen();
        _ = Watch();
    }

    /// <summary>Where it listens.</summary>
    public IPEndPoint At => (IPEndPoint)_socket.Client.LocalEndPoint!;

    /// <summary>How many tunnels are open.</summary>
    public int Open => _tunnels.Count;

    private async Task Listen()
    {
        while (!_stop.IsCancellationRequested)
        {
            try
            {
                UdpReceiveResult got = await _socket.ReceiveAsync(_stop.Token);
                if (got.Buffer.Length <= TunnelFrame.MostOctets && TunnelFrame.Read(got.Buffer) is var (service, body)) await Answer(service, body, got.RemoteEndPoint);
            }
            catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException)
            {
                return;
            }
            catch (Exception e) when (e is not OutOfMemoryException)
            {
                // Whoever was answered has gone, or what came was beyond understanding; the next is answered.
            }
        }
    }

    private async Task Answer(TunnelService service, byte[] body, IPEndPoint from)
    {
        switch (service)
        {
            case TunnelService.SearchRequest when TunnelFrame.ReadEndpoint(body, from) is { } to:
                await Send(TunnelFrame.Of(TunnelService.SearchResponse, [.. TunnelFrame.Endpoint(At), .. TunnelFrame.Describe(_line.Identity)]), to);
                break;
            case TunnelService.DescriptionRequest when TunnelFrame.ReadEndpoint(body, from) is { } to:
                await Send(TunnelFrame.Of(TunnelService.DescriptionResponse, TunnelFrame.Describe(_line.Identity)), to);
                break;
            case TunnelService.ConnectRequest when body.Length >= 20 && TunnelFrame.ReadEndpoint(body, from) is { } control && TunnelFrame.ReadEndpoint(body.AsSpan(8), from) is { } data:
                await Connect(body.AsSpan(16).ToArray(), control, data);
                break;
            case TunnelService.StateRequest when body.Length >= 10 && TunnelFrame.ReadEndpoint(body.AsSpan(2), from) is { } to:
                bool isOpen = _tunnels.TryGetValue(body[0], out Tunnel? asked) && asked.IsOf(from);
                if (isOpen) asked!.HeardAt = Environment.TickCount64;
                await Send(TunnelFrame.Of(TunnelService.StateResponse, body[0], (byte)(isOpen ? TunnelStatus.Ok : TunnelStatus.NoSuchTunnel)), to);
                break;
            case TunnelService.DisconnectRequest when body.Length >= 10 && TunnelFrame.ReadEndpoint(body.AsSpan(2), from) is { } to:
                // Only whoever has a tunnel may close it.
                bool was = _tunnels.TryGetValue(body[0], out Tunnel? closing) && closing.IsOf(from) && Drop(body[0]);
                await Send(TunnelFrame.Of(TunnelService.DisconnectResponse, body[0], (byte)(was ? TunnelStatus.Ok : TunnelStatus.NoSuchTunnel)), to);
                break;
            case TunnelService.Tunnelling when body.Length > 4 && body[0] == 4:
                if (_tunnels.TryGetValue(body[1], out Tunnel? through) && through.IsOf(from)) await Through(through, body);
                break;
            case TunnelService.TunnellingAck when body.Length == 4 && _tunnels.TryGetValue(body[1], out Tunnel? tunnel) && tunnel.IsOf(from) && body[3] == 0:
                if (body[2] == (byte)tunnel.Next) tunnel.Ack?.TrySetResult(body[2]);
                break;
        }
    }

    private async Task Connect(byte[] asked, IPEndPoint control, IPEndPoint data)
    {
        // Four octets: length, a tunnel, on the link layer.
        TunnelStatus status = asked[0] != 4 || asked[1] != 0x04 ? TunnelStatus.NoSuchKind : asked[2] != 0x02 ? TunnelStatus.NoSuchLayer : TunnelStatus.Ok;
        int channel = Enumerable.Range(1, MostTunnels).FirstOrDefault(c => !_tunnels.ContainsKey(c));
        if (status == TunnelStatus.Ok && channel == 0) status = TunnelStatus.NoneLeft;
        IndividualAddress? address = null;
        if (status == TunnelStatus.Ok)
        {
            var tunnel = new Tunnel(channel, control, data);
            address = _line.Open(channel, frame => Enqueue(tunnel, frame.ToMessage(MessageCode.Indication)), (frame, isTaken) => Enqueue(tunnel, frame.ToMessage(MessageCode.Confirmation, !isTaken)));
            if (address is null) status = TunnelStatus.NoneLeft;
            else
            {
                _tunnels[channel] = tunnel;
                _ = Carry(tunnel);
            }
        }
        if (address is not { } own)
        {
            await Send(TunnelFrame.Of(TunnelService.ConnectResponse, 0, (byte)status), control);
            return;
        }
        await Send(TunnelFrame.Of(TunnelService.ConnectResponse, [(byte)channel, 0, .. TunnelFrame.Endpoint(At), 4, 0x04, (byte)(own.Raw >> 8), (byte)own.Raw]), control);
    }

    private static void Enqueue(Tunnel tunnel, byte[] message) => tunnel.Out.Writer.TryWrite(message);

    // One message at a time goes through a tunnel, and the next when it is acknowledged.
    private async Task Carry(Tunnel tunnel)
    {
        try
        {
            await foreach (byte[] message in tunnel.Out.Reader.ReadAllAsync(_stop.Token))
            {
                byte[] datagram = TunnelFrame.Of(TunnelService.Tunnelling, [4, (byte)tunnel.Number, (byte)tunnel.Next, 0, .. message]);
                bool isAcked = false;
                for (int attempt = 0; attempt < 2 && !isAcked; attempt++)
                {
                    var ack = new TaskCompletionSource<int>(TaskCreationOptions.RunContinuationsAsynchronously);
                    tunnel.Ack = ack;
                    await Send(datagram, tunnel.Data);
                    isAcked = await Task.WhenAny(ack.Task, Task.Delay(AckWithin, _stop.Token)) == ack.Task;
                }
                tunnel.Ack = null;
                if (!isAcked)
                {
                    await End(tunnel);
                    return;
                }
                tunnel.Next = (tunnel.Next + 1) & 0xFF;
            }
        }
        catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException or SocketException)
        {
            // It is closed.
        }
    }

    private async Task Through(Tunnel tunnel, byte[] body)
    {
        int sequence = body[2];
        // What comes a second time is acknowledged again and not sent again; what is out of order is dropped.
        bool isNext = sequence == (tunnel.Expects & 0xFF), isAgain = sequence == ((tunnel.Expects - 1) & 0xFF);
        if (!isNext && !isAgain) return;
        tunnel.HeardAt = Environment.TickCount64;
        await Send(TunnelFrame.Of(TunnelService.TunnellingAck, 4, body[1], (byte)sequence, 0), tunnel.Data);
        if (!isNext) return;
        tunnel.Expects++;
        if (BusFrame.FromMessage(body.AsSpan(4)) is (MessageCode.Request, var frame, _)) _line.Say(tunnel.Number, frame);
    }

    private bool Drop(int channel)
    {
        if (!_tunnels.TryRemove(channel, out Tunnel? tunnel)) return false;
        tunnel.Out.Writer.TryComplete();
        _line.Close(channel);
        return true;
    }

    private async Task End(Tunnel tunnel)
    {
        if (Drop(tunnel.Number)) await Send(TunnelFrame.Of(TunnelService.DisconnectRequest, [(byte)tunnel.Number, 0, .. TunnelFrame.Endpoint(At)]), tunnel.Control);
    }

    private async Task Watch()
    {
        try
        {
            while (true)
            {
                await Task.Delay(TimeSpan.FromSeconds(10), _stop.Token);
                foreach (Tunnel silent in _tunnels.Values.Where(t => Environment.TickCount64 - t.HeardAt > HeardWithin.TotalMilliseconds)) await End(silent);
            }
        }
        catch (OperationCanceledException)
        {
            // It is closed.
        }
    }

    private async Task Send(byte[] datagram, IPEndPoint to)
    {
        try
        {
            await _socket.SendAsync(datagram, to, _stop.Token);
        }
        catch (Exception e) when (e is SocketException or ObjectDisposedException or OperationCanceledException)
        {
            // Nobody is there any more; a tunnel to nobody ends for want of acknowledgements.
        }
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        _stop.Cancel();
        foreach (int channel in _tunnels.Keys) Drop(channel);
        _socket.Dispose();
        _stop.Dispose();
    }
}
