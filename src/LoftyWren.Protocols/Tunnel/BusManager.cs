using System.Buffers.Binary;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Security;
using LoftyWren.Core.Bus.Topology;

namespace LoftyWren.Protocols.Tunnel;

/// <summary>A device did not answer, or refused; the message says which, and what to do.</summary>
public sealed class BusRefusedException(string message) : InvalidOperationException(message);

/// <summary>Something in programming mode: by which address, and the number on its label.</summary>
public sealed record WaitingDevice(IndividualAddress Address, string Serial);

/// <summary>What a device says of itself: label, firmware, whether it has what it is to do, how often it lost the bus, when last and since when it has it (ms of its time), and of each channel what it drives, its hours, cycles and Wh; nothing where it counts none.</summary>
public sealed record DeviceHealth(string Serial, string Firmware, LoadState State, bool IsProgramming, int Failures, long FailedAt, long FedSince, IReadOnlyList<ChannelHealth> Channels);

/// <summary>What a channel drives, its hours, cycles and energy.</summary>
public sealed record ChannelHealth(string Channel, double? Drives, double? Hours, double? Cycles, double? WattHours);

/// <summary>
/// Putting devices to work over a tunnel: addresses, what they are to do, what they say of themselves. One at a time speaks;
/// each question goes up to three times before its device counts as silent.
/// </summary>
public sealed class BusManager : IDisposable
{
    private const int Tries = 3;
    private readonly TunnelClient _tunnel;
    private readonly Lock _turn = new();
    private readonly List<(Func<BusFrame, bool> Wants, Action<BusFrame> Take)> _waiting = [];

    /// <summary>Uses a tunnel, which stays whoever's it is.</summary>
    public BusManager(TunnelClient tunnel)
    {
        _tunnel = tunnel;
        tunnel.Heard += Heard;
    }

    /// <summary>The key by which a device is spoken to, where it is secured.</summary>
    public Func<IndividualAddress, byte[]?>? KeyOf { get; set; }

    /// <summary>The sequence number of what is said next to a device that is secured: above all before it, over restarts too.</summary>
    public static long NextSequence(long before) => Math.Max(before + 1, DateTimeOffset.UtcNow.ToUnixTimeMilliseconds() << 4);

    private readonly Dictionary<IndividualAddress, long> _said = [];

    /// <summary>For how long an answer is waited for.</summary>
    public TimeSpan AnswerWithin { get; init; } = TimeSpan.FromSeconds(1.5);

    private void Heard(BusFrame frame)
    {
        lock (_turn)
        {
            foreach (var (wants, take) in _waiting)
            {
                if (wants(frame)) take(frame);
            }
        }
    }

    /// <summary>Asks one device, and answers what it says; null where it is silent. One that is secured is asked, and answers, sealed; where its key is not known, as any other.</summary>
    private Task<BusFrame?> Ask(IndividualAddress device, byte[] unit, Func<BusFrame, bool> isAnswer, CancellationToken stop) => Ask(device, unit, isAnswer, KeyOf?.Invoke(device), stop);

    private async Task<BusFrame?> Ask(IndividualAddress device, byte[] unit, Func<BusFrame, bool> isAnswer, byte[]? key, CancellationToken stop)
    {
        for (int attempt = 0; attempt < Tries; attempt++)
        {
            // What is said again is sealed anew: the same once more would be taken for a recording. Its answer has its number.
            long number = key is null ? 0 : _said[device] = NextSequence(_said.GetValueOrDefault(device));
            BusFrame? Opened(BusFrame f) => key is null ? f : SecureUnit.SequenceOf(f) == number ? SecureUnit.Open(f, key) : null;
            var answer = new TaskCompletionSource<BusFrame>(TaskCreationOptions.RunContinuationsAsynchronously);
            (Func<BusFrame, bool>, Action<BusFrame>) waiting = (f => !f.IsToGroup && f.From == device && f.Device == _tunnel.Address && Opened(f) is { } said && isAnswer(said), f => answer.TrySetResult(Opened(f)!));
            lock (_turn) _waiting.Add(waiting);
            try
            {
                // Whom nobody acknowledges for is not there; one that has only just lost the bus may be back.
                BusFrame frame = BusFrame.ToDevice(device, unit) with { From = _tunnel.Address };
                bool isTaken = await _tunnel.Send(key is null ? frame : SecureUnit.Seal(frame, key, number), stop);
                if (isTaken && await Task.WhenAny(answer.Task, Task.Delay(AnswerWithin, stop)) == answer.Task) return await answer.Task;
                stop.ThrowIfCancellationRequested();
            }
            finally
            {
                lock (_turn) _waiting.Remove(waiting);
            }
        }
        return null;
    }

    /// <summary>Says something to everybody and gathers what is answered until nothing has come for a while.</summary>
    private async Task<IReadOnlyList<BusFrame>> AskAll(byte[] unit, BusService answer, CancellationToken stop)
    {
        var got = new List<BusFrame>();
        (Func<BusFrame, bool>, Action<BusFrame>) waiting = (f => f.IsBroadcast && f.Service == answer, got.Add);
        lock (_turn) _waiting.Add(waiting);
        try
        {
            await _tunnel.Send(BusFrame.ToAll(unit), stop);
            for (int before = -1; before != Count();)
            {
                before = Count();
                await Task.Delay(AnswerWithin / 2, stop);
            }
            lock (_turn) return [.. got];
        }
        finally
        {
            lock (_turn) _waiting.Remove(waiting);
        }

        int Count()
        {
            lock (_turn) return got.Count;
        }
    }

    private static byte[]? Octets(BusFrame? frame) => frame is not null && BusPids.Read(frame) is { Count: > 0 } property ? property.Octets : null;

    /// <summary>Reads elements of a property; null where the device has none such.</summary>
    /// <exception cref="BusRefusedException">The device is silent.</exception>
    public async Task<byte[]?> Read(IndividualAddress device, BusPart part, int pid, CancellationToken stop, int first = 1, int count = 1) =>
        Octets(await Property(device, BusPids.Ask(part, pid, first, count), part, pid, first, stop));

    /// <summary>Writes elements of a property; answers whether the device took them.</summary>
    /// <exception cref="BusRefusedException">The device is silent.</exception>
    public async Task<bool> Write(IndividualAddress device, BusPart part, int pid, byte[] octets, CancellationToken stop, int first = 1, int count = 1) =>
        BusPids.Read(await Property(device, BusPids.Write(part, pid, octets, first, count), part, pid, first, stop)) is { Count: > 0 };

    private async Task<BusFrame> Property(IndividualAddress device, byte[] unit, BusPart part, int pid, int first, CancellationToken stop) =>
        await Ask(device, unit, f => f.Service == BusService.PropertyAnswer && BusPids.Read(f) is { } p && p.Part == part && p.Pid == pid && p.First == first, stop)
        ?? throw new BusRefusedException($"{device} does not answer. See that it hangs on the line, that the line is fed, and that it has this address.");

    /// <summary>The label of the device at an address; null where none answers.</summary>
    public async Task<string?> SerialAt(IndividualAddress device, CancellationToken stop) =>
        await Open(device, BusPids.Serial, stop) is { Length: >= 6 } octets ? BusSerial.Label(octets) : null;

    /// <summary>Whether a device is secured; false where it cannot be, or is silent.</summary>
    public async Task<bool> IsSecured(IndividualAddress device, CancellationToken stop) =>
        await Open(device, BusPids.Secured, stop) is [1];

    // What a device tells anybody of itself, secured or not.
    private async Task<byte[]?> Open(IndividualAddress device, int pid, CancellationToken stop) =>
        Octets(await Ask(device, BusPids.Ask(BusPart.Device, pid), f => BusPids.Read(f) is { Part: BusPart.Device } p && p.Pid == pid, null, stop));

    /// <summary>Goes on above the last sequence number that a secured device took, whatever this machine's clock says.</summary>
    public async Task GoOnAbove(IndividualAddress device, CancellationToken stop)
    {
        if (await Open(device, BusPids.LastSequence, stop) is not { Length: 6 } octets) return;
        long took = octets.Aggregate(0L, (sum, octet) => (sum << 8) | octet);
        _said[device] = Math.Max(took, _said.GetValueOrDefault(device));
    }

    /// <summary>Gives a device that is not secured yet the key it is put to work with, sealed with that of its certificate; answers whether it took it.</summary>
    public async Task<bool> Secure(IndividualAddress device, byte[] certified, byte[] key, CancellationToken stop) =>
        await Ask(device, BusPids.Write(BusPart.Device, BusPids.ToolKey, key), f => BusPids.Read(f) is { Pid: BusPids.ToolKey, Part: BusPart.Device }, certified, stop) is { } answer && BusPids.Read(answer) is { Count: > 0 };

    /// <summary>Who is in programming mode, with their labels. Two out of the box have the same address: each label is told.</summary>
    public async Task<IReadOnlyList<WaitingDevice>> WhoWaits(CancellationToken stop)
    {
        var found = new List<WaitingDevice>();
        foreach (IndividualAddress address in (await AskAll(BusFrame.Say(BusService.AddressRead, []), BusService.AddressAnswer, stop)).Select(f => f.From).Distinct())
        {
            // Everybody of that address answers, one after the other.
            var labels = new HashSet<string>();
            (Func<BusFrame, bool>, Action<BusFrame>) waiting = (f => f.From == address && f.Device == _tunnel.Address && BusPids.Read(f) is { Pid: BusPids.Serial, Count: > 0 }, f => labels.Add(BusSerial.Label(BusPids.Read(f)!.Value.Octets)));
            lock (_turn) _waiting.Add(waiting);
            try
            {
                await _tunnel.Send(BusFrame.ToDevice(address, BusPids.Ask(BusPart.Device, BusPids.Serial)), stop);
                await Task.Delay(AnswerWithin, stop);
            }
            finally
            {
                lock (_turn) _waiting.Remove(waiting);
            }
            lock (_turn) found.AddRange(labels.Order(StringComparer.Ordinal).Select(l => new WaitingDevice(address, l)));
        }
        return found;
    }

    /// <summary>Gives an address to the one device in programming mode; answers its label.</summary>
    /// <exception cref="BusRefusedException">None waits, several do, or another has the address.</exception>
    public async Task<string> AddressByButton(IndividualAddress address, CancellationToken stop)
    {
        IReadOnlyList<WaitingDevice> waiting = await WhoWaits(stop);
        if (waiting.Count == 0) throw new BusRefusedException("No device is in programming mode. Press the button of the one that is to have the address.");
        if (waiting.Count > 1) throw new BusRefusedException($"{waiting.Count} devices are in programming mode: {string.Join(", ", waiting.Select(w => w.Serial))}. All of them would take the address; press the buttons of all but one again.");
        WaitingDevice one = waiting[0];
        await Free(address, one.Serial, stop);
        await _tunnel.Send(BusFrame.ToAll(BusFrame.Say(BusService.AddressWrite, [(byte)(address.Raw >> 8), (byte)address.Raw])), stop);
        await Took(address, one.Serial, stop);
        // One that is secured refuses that from whoever has not its key; it stays ready until it starts again.
        await Ask(address, BusPids.Write(BusPart.Device, BusPids.Programming, [0]), f => BusPids.Read(f) is { Pid: BusPids.Programming }, await IsSecured(address, stop) ? KeyOf?.Invoke(address) : null, stop);
        return one.Serial;
    }

    /// <summary>Gives an address to the device with a label.</summary>
    /// <exception cref="BusRefusedException">None on the line has it, or another has the address.</exception>
    public async Task AddressBySerial(string serial, IndividualAddress address, CancellationToken stop)
    {
        byte[] octets = BusSerial.Octets(serial);
        if ((await AskAll(BusFrame.Say(BusService.SerialRead, octets), BusService.SerialAnswer, stop)).All(f => !f.Data.StartsWith(octets))) throw new BusRefusedException($"No device on the line has the label {serial}. See that it hangs there and has its supply, and read the label again.");
        await Free(address, serial, stop);
        await _tunnel.Send(BusFrame.ToAll(BusFrame.Say(BusService.SerialWrite, [.. octets, (byte)(address.Raw >> 8), (byte)address.Raw, 0, 0, 0, 0])), stop);
        await Took(address, serial, stop);
    }

    private async Task Free(IndividualAddress address, string serial, CancellationToken stop)
    {
        if (await SerialAt(address, stop) is { } there && there != serial) throw new BusRefusedException($"{address} is that of the device with the label {there}. Nothing was given; choose another address, or give that one another first.");
    }

    private async Task Took(IndividualAddress address, string serial, CancellationToken stop)
    {
        if (await SerialAt(address, stop) is var there && there != serial) throw new BusRefusedException(there is null ? $"The device {serial} did not take the address {address}, or has gone. Try again; one that is secured takes another only after its button was pressed." : $"At {address} is {there} now, not {serial}. Look which devices are in programming mode.");
    }

    /// <summary>What a device is: whether it is what the project says.</summary>
    /// <exception cref="BusRefusedException">It is another; nothing was written.</exception>
    public async Task MustBe(IndividualAddress device, DeviceDescription description, string? serial, CancellationToken stop)
    {
        string? there = await SerialAt(device, stop);
        if (there is null) throw new BusRefusedException($"{device} does not answer. See that it hangs on the line, that the line is fed, and that it has this address.");
        if (serial is not null && there != serial) throw new BusRefusedException($"At {device} is the device with the label {there}, not {serial}. Nothing was written.");
        if (await Open(device, BusPids.Hardware, stop) is not { } hardware) throw new BusRefusedException($"{device} has stopped answering before it said what it is. Nothing was written; see that it is connected and its line has power, then try again.");
        if (!hardware.AsSpan().SequenceEqual(BusPids.HardwareOf(description.Id, description.Revision))) throw new BusRefusedException($"What is at {device} is no {description.Name} of revision {description.Revision}. Nothing was written; see which device hangs there.");
    }

    /// <summary>Whether a device has something to do, and whether it has just that image.</summary>
    public async Task<(LoadState State, bool IsSame)> Has(IndividualAddress device, ApplicationImage image, DeviceForm form, CancellationToken stop)
    {
        LoadState state = await Read(device, BusPart.Application, BusPids.Load, stop) is [var octet, ..] ? (LoadState)octet : LoadState.Empty;
        return (state, state == LoadState.Loaded && await Read(device, BusPart.Application, BusPids.Check, stop) is { Length: 4 } check && BinaryPrimitives.ReadUInt32BigEndian(check) == image.Check(form));
    }

    /// <summary>Reads back all that is in a device.</summary>
    public async Task<ApplicationImage> ReadBack(IndividualAddress device, DeviceForm form, Action<int, int> progress, CancellationToken stop)
    {
        async Task<int> Count(BusPart part, int pid) => await Read(device, part, pid, stop, 0) is { Length: 2 } octets ? BinaryPrimitives.ReadUInt16BigEndian(octets) : 0;
        int groups = await Count(BusPart.Groups, BusPids.Table), ties = await Count(BusPart.Ties, BusPids.Table), set = await Count(BusPart.Application, BusPids.SetPlaces), done = 0, total = groups + ties + (2 * set);
        async Task<List<T>> All<T>(BusPart part, int pid, int many, int atOnce, int size, Func<ReadOnlyMemory<byte>, T> read)
        {
            var list = new List<T>(many);
            while (list.Count < many)
            {
                (int under, int first) = BusPids.At(pid, list.Count);
                byte[] got = await Read(device, part, under, stop, first, Math.Min(Math.Min(atOnce, many - list.Count), BusPids.Each - first + 1)) ?? throw new BusRefusedException($"{device} was written by somebody else meanwhile. Read it again.");
                for (int i = 0; i + size <= got.Length; i += size) list.Add(read(got.AsMemory(i, size)));
                progress(done += got.Length / size, total);
            }
            return list;
        }
        List<GroupNumber> has = await All(BusPart.Groups, BusPids.Table, groups, 5, 2, o => new GroupNumber(BinaryPrimitives.ReadUInt16BigEndian(o.Span)));
        List<ObjectTie> tied = await All(BusPart.Ties, BusPids.Table, ties, 2, 4, o => ParameterWire.ReadTie(o.Span));
        List<int> places = await All(BusPart.Application, BusPids.SetPlaces, set, 5, 2, o => (int)BinaryPrimitives.ReadUInt16BigEndian(o.Span));
        var settings = new Dictionary<int, string>();
        foreach (int at in places)
        {
            progress(++done, total);
            if (at >= form.Parameters.Count) continue;
            ParameterDescription p = form.Parameters[at].Is;
            byte[] octets;
            if (p.Sort == ParameterSort.Text)
            {
                int nth = form.Parameters.Take(at).Count(x => x.Is.Sort == ParameterSort.Text);
                var letters = new List<byte>();
                for (int piece = 0; piece < ParameterWire.MostPieces; piece++)
                {
                    byte[] ten = await Read(device, BusPart.Application, BusPids.Texts, stop, (nth * ParameterWire.MostPieces) + piece + 1) ?? [];
                    letters.AddRange(ten);
                    if (ten.Length == 0 || ten[^1] == 0) break;
                }
                octets = [.. letters];
            }
            else
            {
                (int pid, int first) = BusPids.At(BusPids.Values, at);
                octets = await Read(device, BusPart.Application, pid, stop, first) ?? [];
            }
            if (ParameterWire.Read(p, octets) is { } value) settings[at] = value;
        }
        return new ApplicationImage(settings, has, tied);
    }

    /// <summary>Writes a transfer, step by step. Until its last step the device does what it did.</summary>
    /// <exception cref="BusRefusedException">The device is silent or refuses a step; says which.</exception>
    public async Task Transfer(IndividualAddress device, ApplicationTransfer transfer, Action<int, int> progress, CancellationToken stop)
    {
        for (int i = 0; i < transfer.Steps.Count; i++)
        {
            TransferStep step = transfer.Steps[i];
            progress(i, transfer.Steps.Count);
            if (!await Write(device, step.Part, step.Pid, step.Octets, stop, step.First, step.Count))
            {
                throw new BusRefusedException(i == transfer.Steps.Count - 1 ? $"{device} found that what it was sent is not whole, and goes on with what it had. Send all of it again." : $"{device} refused step {i + 1} of {transfer.Steps.Count} and goes on with what it had. See whether somebody else writes to it, then send again.");
            }
        }
        progress(transfer.Steps.Count, transfer.Steps.Count);
    }

    /// <summary>What a device says of itself; null where it is silent.</summary>
    public async Task<DeviceHealth?> Look(IndividualAddress device, DeviceForm? form, CancellationToken stop)
    {
        if (await SerialAt(device, stop) is not { } serial) return null;
        byte[] firmware = await Read(device, BusPart.Device, BusPids.Firmware, stop) ?? [0, 0], failures = await Read(device, BusPart.Device, BusPids.Failures, stop) ?? [0, 0];
        long Long(byte[]? octets) => octets is { Length: 8 } ? BinaryPrimitives.ReadInt64BigEndian(octets) : 0;
        LoadState state = await Read(device, BusPart.Application, BusPids.Load, stop) is [var octet, ..] ? (LoadState)octet : LoadState.Empty;
        bool isProgramming = await Read(device, BusPart.Device, BusPids.Programming, stop) is [1];
        long failedAt = Long(await Read(device, BusPart.Device, BusPids.FailedAt, stop)), fedSince = Long(await Read(device, BusPart.Device, BusPids.FedSince, stop));
        var channels = new List<ChannelHealth>();
        for (int c = 0; form is not null && c < form.Channels.Count; c++)
        {
            if (form.Channels[c].Behaviour.Drives.Count == 0) continue;
            bool counts = form.Channels[c].Behaviour.IsMetered;
            double? drives = Number(await Read(device, BusPart.Application, BusPids.Drive, stop, c + 1));
            async Task<double?> Counted(int pid) => counts ? Number(await Read(device, BusPart.Application, pid, stop, c + 1)) : null;
            channels.Add(new ChannelHealth(form.Channels[c].Key, drives, await Counted(BusPids.Hours), await Counted(BusPids.Cycles), await Counted(BusPids.Energy)));
        }
        return new DeviceHealth(serial, $"{firmware[0]}.{firmware[1]}", state, isProgramming, BinaryPrimitives.ReadUInt16BigEndian(failures), failedAt, fedSince, channels);
    }

    private static double? Number(byte[]? octets) => (octets is { Length: 8 } ? BinaryPrimitives.ReadDoubleBigEndian(octets) : octets is { Length: 4 } ? BinaryPrimitives.ReadSingleBigEndian(octets) : double.NaN) is var number && double.IsFinite(number) ? number : null;

    /// <summary>What each channel that drives something drives now, by its place.</summary>
    public async Task<Dictionary<int, double>> Drives(IndividualAddress device, DeviceForm form, CancellationToken stop)
    {
        var drives = new Dictionary<int, double>();
        for (int c = 0; c < form.Channels.Count; c++)
        {
            if (form.Channels[c].Behaviour.Drives.Count > 0 && Number(await Read(device, BusPart.Application, BusPids.Drive, stop, c + 1)) is { } value) drives[c] = value;
        }
        return drives;
    }

    /// <summary>Drives a channel by hand, or lets it go; works before the device has an address of its own or anything to do.</summary>
    public async Task<bool> Drive(IndividualAddress device, int channel, double? value, CancellationToken stop)
    {
        byte[] octets = new byte[4];
        BinaryPrimitives.WriteSingleBigEndian(octets, value is { } v ? (float)v : float.NaN);
        return await Write(device, BusPart.Application, BusPids.Drive, octets, stop, channel + 1);
    }

    /// <summary>Says something to a group; answers whether somebody took it.</summary>
    public Task<bool> Say(BusFrame frame, CancellationToken stop) => _tunnel.Send(frame, stop);

    /// <inheritdoc/>
    public void Dispose() => _tunnel.Heard -= Heard;
}
