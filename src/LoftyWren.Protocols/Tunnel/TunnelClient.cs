using System.Net;
using System.Net.Sockets;
using System.Threading.Channels;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Lines;

namespace LoftyWren.Protocols.Tunnel;

/// <summary>An interface that answered, and where.</summary>
public sealed record FoundInterface(TunnelIdentity Identity, IPEndPoint At);

/// <summary>The interface does not answer, or has closed the tunnel.</summary>
public sealed class TunnelLostException(string message) : IOException(message);

/// <summary>
/// A program's end of a tunnel to a two-wire line. One telegram at a time: it is acknowledged by the interface within a second
/// or goes once more, and confirmed when it has been on the line. What the line says comes to <see cref="Heard"/>.
/// </summary>
public sealed class TunnelClient : IAsyncDisposable
{
    private static readonly TimeSpan AckWithin = TimeSpan.FromSeconds(1), AnswerWithin = TimeSpan.FromSeconds(3), BeatEvery = TimeSpan.FromSeconds(60);
    private readonly UdpClient _socket;
    private readonly IPEndPoint _control;
    private readonly CancellationTokenSource _stop = new();
    private readonly SemaphoreSlim _turn = new(1, 1);
    private readonly Channel<BusFrame> _heard = Channel.CreateUnbounded<BusFrame>(new UnboundedChannelOptions { SingleReader = true });
    private IPEndPoint _data;
    private int _tunnel, _next, _expects;
    private volatile TaskCompletionSource<bool>? _ack, _confirmation, _beat;

    private TunnelClient(IPEndPoint control)
    {
        (_control, _data) = (control, control);
        _socket = new UdpClient(new IPEndPoint(IPAddress.IsLoopback(control.Address) ? IPAddress.Loopback : IPAddress.Any, 0));
    }

    /// <summary>The address by which it speaks on the line.</summary>
    public IndividualAddress Address { get; private set; }

    /// <summary>Told of every telegram that the line said, in order; not on the thread of who asked.</summary>
    public event Action<BusFrame>? Heard;

    /// <summary>Why it is closed, once it is.</summary>
    public string? Closed { get; private set; }

    /// <summary>How long a telegram may take to be on the line.</summary>
    public TimeSpan ConfirmWithin { get; init; } = TimeSpan.FromSeconds(3);

    /// <summary>Asks who is there; to one address, or to the group at which interfaces listen. Gathers answers until none has come for a while.</summary>
    public static async Task<IReadOnlyList<FoundInterface>> Search(IPEndPoint to, TimeSpan wait, CancellationToken stop)
    {
        using var socket = new UdpClient(new IPEndPoint(IPAddress.IsLoopback(to.Address) ? IPAddress.Loopback : IPAddress.Any, 0));
        var found = new List<FoundInterface>();
        try
        {
            await socket.SendAsync(TunnelFrame.Of(TunnelService.SearchRequest, TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Any, 0))), to, stop);
            while (found.Count < 100)
            {
                using var quiet = CancellationTokenSource.CreateLinkedTokenSource(stop);
                quiet.CancelAfter(wait);
                UdpReceiveResult got = await socket.ReceiveAsync(quiet.Token);
                if (TunnelFrame.Read(got.Buffer) is (TunnelService.SearchResponse, { Length: > 8 } body) && TunnelFrame.ReadEndpoint(body, got.RemoteEndPoint) is { } at && TunnelFrame.ReadDescription(body.AsSpan(8)) is { } identity) found.Add(new FoundInterface(identity, at));
            }
        }
        catch (Exception e) when (e is OperationCanceledException or SocketException && !stop.IsCancellationRequested)
        {
            // Nothing more comes.
        }
        return found;
    }

    /// <summary>Opens a tunnel.</summary>
    /// <exception cref="TunnelLostException">Nobody answers there, or it has no tunnel left.</exception>
    public static async Task<TunnelClient> Connect(IPEndPoint at, CancellationToken stop)
    {
        var client = new TunnelClient(at);
        try
        {
            byte[] nowhere = TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Any, 0));
            await client._socket.SendAsync(TunnelFrame.Of(TunnelService.ConnectRequest, [.. nowhere, .. nowhere, 4, 0x04, 0x02, 0]), at, stop);
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
            patience.CancelAfter(AnswerWithin);
            while (true)
            {
                UdpReceiveResult got = await client._socket.ReceiveAsync(patience.Token);
                if (TunnelFrame.Read(got.Buffer) is not (TunnelService.ConnectResponse, { Length: >= 2 } body)) continue;
                if (body[1] != 0 || body.Length < 14) throw new TunnelLostException((TunnelStatus)body[1] == TunnelStatus.NoneLeft ? $"The interface at {at} has no tunnel left, or no supply. Close another program that uses it, or see that its line is fed." : $"The interface at {at} opens no tunnel (status {body[1]:X2}).");
                (client._tunnel, client._data, client.Address) = (body[0], TunnelFrame.ReadEndpoint(body.AsSpan(2), at) ?? at, new((ushort)((body[12] << 8) | body[13])));
                break;
            }
        }
        catch (Exception e) when (e is SocketException or OperationCanceledException && !stop.IsCancellationRequested)
        {
            client._socket.Dispose();
            throw new TunnelLostException($"No interface answers at {at}. See that it has its supply and its network, and that the address is right.");
        }
        catch
        {
            client._socket.Dispose();
            throw;
        }
        _ = client.Listen();
        _ = client.Tell();
        _ = client.Beat();
        return client;
    }

    /// <summary>Sends a telegram; answers whether somebody on the line took it.</summary>
    /// <exception cref="TunnelLostException">The interface does not answer, or the line did not carry it in time.</exception>
    public async Task<bool> Send(BusFrame frame, CancellationToken stop)
    {
        await _turn.WaitAsync(stop);
        try
        {
            if (Closed is { } why) throw new TunnelLostException(why);
            var confirmation = _confirmation = new TaskCompletionSource<bool>(TaskCreationOptions.RunContinuationsAsynchronously);
            byte[] datagram = TunnelFrame.Of(TunnelService.Tunnelling, [4, (byte)_tunnel, (byte)_next, 0, .. (frame with { From = Address }).ToMessage(MessageCode.Request)]);
            bool isAcked = false;
            for (int attempt = 0; attempt < 2 && !isAcked; attempt++)
            {
                var ack = _ack = new TaskCompletionSource<bool>(TaskCreationOptions.RunContinuationsAsynchronously);
                await _socket.SendAsync(datagram, _data, stop);
                isAcked = await Task.WhenAny(ack.Task, Task.Delay(AckWithin, stop)) == ack.Task;
            }
            stop.ThrowIfCancellationRequested();
            if (!isAcked)
            {
                Close($"The interface at {_control} does not answer any more.");
                throw new TunnelLostException(Closed!);
            }
            _next = (_next + 1) & 0xFF;
            if (await Task.WhenAny(confirmation.Task, Task.Delay(ConfirmWithin, stop)) != confirmation.Task)
            {
                stop.ThrowIfCancellationRequested();
                throw new TunnelLostException("The line did not carry the telegram. See that it is fed and not overloaded; on the virtual site, that its clock runs.");
            }
            return await confirmation.Task;
        }
        finally
        {
            _ack = _confirmation = null;
            _turn.Release();
        }
    }

    private async Task Listen()
    {
        try
        {
            while (!_stop.IsCancellationRequested)
            {
                UdpReceiveResult got = await _socket.ReceiveAsync(_stop.Token);
                // Only the interface may speak here.
                if (!got.RemoteEndPoint.Address.Equals(_control.Address) || TunnelFrame.Read(got.Buffer) is not var (service, body)) continue;
                switch (service)
                {
                    case TunnelService.TunnellingAck when body.Length == 4 && body[1] == _tunnel && body[2] == _next && body[3] == 0:
                        _ack?.TrySetResult(true);
                        break;
                    case TunnelService.Tunnelling when body.Length > 4 && body[1] == _tunnel:
                        await Through(body);
                        break;
                    case TunnelService.StateResponse when body.Length >= 2 && body[0] == _tunnel:
                        _beat?.TrySetResult(body[1] == 0);
                        break;
                    case TunnelService.DisconnectRequest when body.Length >= 2 && body[0] == _tunnel:
                        await _socket.SendAsync(TunnelFrame.Of(TunnelService.DisconnectResponse, body[0], 0), _control, _stop.Token);
                        Close("The interface has closed the tunnel.");
                        break;
                }
            }
        }
        catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException)
        {
            // It is closed.
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            Close($"The interface at {_control} is not reached any more: {e.Message}");
        }
    }

    private async Task Through(byte[] body)
    {
        int sequence = body[2];
        bool isNext = sequence == (_expects & 0xFF), isAgain = sequence == ((_expects - 1) & 0xFF);
        if (!isNext && !isAgain) return;
        await _socket.SendAsync(TunnelFrame.Of(TunnelService.TunnellingAck, 4, (byte)_tunnel, (byte)sequence, 0), _data, _stop.Token);
        if (!isNext) return;
        _expects++;
        if (BusFrame.FromMessage(body.AsSpan(4)) is not var (code, frame, hasFailed)) return;
        if (code == MessageCode.Confirmation) _confirmation?.TrySetResult(!hasFailed);
        else if (code == MessageCode.Indication) _heard.Writer.TryWrite(frame);
    }

    private async Task Tell()
    {
        await foreach (BusFrame frame in _heard.Reader.ReadAllAsync()) Heard?.Invoke(frame);
    }

    // A tunnel of which nothing is heard for long is closed by the interface; three beats without an answer close it here.
    private async Task Beat()
    {
        try
        {
            for (int missed = 0; Closed is null;)
            {
                await Task.Delay(BeatEvery, _stop.Token);
                var beat = _beat = new TaskCompletionSource<bool>(TaskCreationOptions.RunContinuationsAsynchronously);
                await _socket.SendAsync(TunnelFrame.Of(TunnelService.StateRequest, [(byte)_tunnel, 0, .. TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Any, 0))]), _control, _stop.Token);
                bool isAnswered = await Task.WhenAny(beat.Task, Task.Delay(TimeSpan.FromSeconds(10), _stop.Token)) == beat.Task;
                if (isAnswered && !await beat.Task) Close("The interface knows the tunnel no more.");
                missed = isAnswered ? 0 : missed + 1;
                if (missed == 3) Close($"The interface at {_control} does not answer any more.");
            }
        }
        catch (Exception e) when (e is OperationCanceledException or ObjectDisposedException or SocketException)
        {
            // It is closed.
        }
    }

    private void Close(string why)
    {
        Closed ??= why;
        _heard.Writer.TryComplete();
        _stop.Cancel();
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (Closed is null)
        {
            try
            {
                await _socket.SendAsync(TunnelFrame.Of(TunnelService.DisconnectRequest, [(byte)_tunnel, 0, .. TunnelFrame.Endpoint(new IPEndPoint(IPAddress.Any, 0))]), _control);
            }
            catch (Exception e) when (e is SocketException or ObjectDisposedException)
            {
                // Then it is closed by time.
            }
        }
        Close("The tunnel was closed here.");
        _socket.Dispose();
    }
}
