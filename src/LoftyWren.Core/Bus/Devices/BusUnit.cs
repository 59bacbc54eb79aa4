using System.Buffers.Binary;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Security;
using LoftyWren.Core.Bus.Topology;

namespace LoftyWren.Core.Bus.Devices;

/// <summary>What somebody drives a channel to by hand (null: no more), since when (ms), and how long its motor has run down and up before that and was not asked about, ms.</summary>
public sealed record HandDrive(float? Value, long Since, long Down, long Up)
{
    /// <summary>The same at a later moment.</summary>
    public HandDrive Until(long now) => this with { Since = now, Down = Down + (Value > 0 ? now - Since : 0), Up = Up + (Value < 0 ? now - Since : 0) };
}

/// <summary>What a unit keeps over a restart.</summary>
public sealed record BusUnitMemory(string Serial, IndividualAddress Address, bool IsProgramming, LoadState State, ApplicationImage? Application, ApplicationImage? Staged, IReadOnlyDictionary<int, string>? Texts, uint Promised, DeviceMemory? Runs, IReadOnlyDictionary<int, HandDrive> ByHand, int Failures, long FailedAt, long FedSince, bool IsOff, bool HasMains, UnitSecurity? Security = null);

/// <summary>That a unit is secured: the key it is put to work with, locked by that of its certificate as it stands in its memory (hexadecimal), and the sequence number it took last.</summary>
public sealed record UnitSecurity(string LockedKey, long Took);

/// <summary>Who has a unit: takes what it wants to send, from a moment on (µs of site time), and is told that it may be due sooner.</summary>
public interface IBusUnitOwner
{
    /// <summary>It wants to send something.</summary>
    void Wants(BusUnit unit, BusFrame frame, long microseconds);

    /// <summary>Something came to it or was done to it.</summary>
    void Moved(BusUnit unit);
}

/// <summary>
/// A device as it hangs on a line: its label, its address, its button, its supply, and what was written into it. It answers
/// what the line asks of it (ISO/IEC 14543-3-3, -7): addresses by its button or its serial number, properties, a restart. What
/// is being written is kept beside what runs until it is whole and its sum is right: whatever interrupts, it runs the old or
/// the new, or has never had anything. Moments are ms of site time unless they say otherwise.
/// </summary>
public sealed class BusUnit : ILineStation
{
    // What it puts into one answer at most.
    private const int MostAnswer = 10;
    private readonly IBusUnitOwner _owner;
    private BusUnitMemory? _kept;
    private Dictionary<int, string> _settings = [];
    private List<GroupNumber> _groups = [];
    private List<ObjectTie> _ties = [];
    private readonly Dictionary<int, byte[]> _texts = [];
    private readonly Dictionary<int, HandDrive> _byHand = [];
    private HashSet<GroupNumber> _known = [];
    private uint _promised;
    private bool _isStaged;
    private byte[]? _toolKey;
    private long _tookSequence;

    /// <summary>Takes a device out of its box.</summary>
    /// <param name="key">By which whoever hung it knows it.</param>
    /// <param name="description">What it is.</param>
    /// <param name="serial">The number on its label; see <see cref="BusSerial"/>.</param>
    /// <param name="owner">Who has it.</param>
    /// <param name="now">The moment from which on it has the bus.</param>
    public BusUnit(string key, DeviceDescription description, string serial, IBusUnitOwner owner, long now) => (Key, Description, Serial, _owner, FedSince) = (key, description, serial, owner, now);

    /// <inheritdoc/>
    public string Key { get; }

    /// <summary>What it is.</summary>
    public DeviceDescription Description { get; }

    /// <summary>The number on its label.</summary>
    public string Serial { get; }

    /// <summary>Its individual address.</summary>
    public IndividualAddress Address { get; private set; } = IndividualAddress.Factory;

    /// <summary>Whether its button was pressed, so that it takes an address.</summary>
    public bool IsProgramming { get; private set; }

    /// <summary>Whether it has what it is to do.</summary>
    public LoadState State { get; private set; }

    /// <summary>What it does, once it has been written.</summary>
    public DeviceRunner? Runner { get; private set; }

    /// <summary>What was written into it; null while nothing was.</summary>
    public ApplicationImage? Application { get; private set; }

    /// <summary>Whether it was taken off the bus, or its wire is cut.</summary>
    public bool IsOff { get; private set; }

    /// <summary>Whether it was given a key: it then takes orders only from whoever has that.</summary>
    public bool IsSecured => _toolKey is not null;

    /// <summary>Whether its line feeds it.</summary>
    public bool HasBus { get; private set; } = true;

    /// <summary>Whether it has its mains.</summary>
    public bool HasMains { get; private set; } = true;

    /// <summary>How often it has lost the bus, when last, and since when it has it.</summary>
    public int Failures { get; private set; }

    /// <inheritdoc cref="Failures"/>
    public long FailedAt { get; private set; }

    /// <inheritdoc cref="Failures"/>
    public long FedSince { get; private set; }

    /// <inheritdoc/>
    public bool IsAlive => HasBus && !IsOff;

    /// <summary>The groups that it knows: of a coupler those that it lets through.</summary>
    public IReadOnlySet<GroupNumber> Groups => _known;

    /// <summary>Of a coupler: what it lets through and how often it repeats.</summary>
    public CouplerSettings Coupling { get; private set; } = CouplerSettings.Delivered;

    /// <summary>When it must run next.</summary>
    public long NextDue => Runner?.NextDue ?? Behaviour.Never;

    internal long QueuedDue { get; set; } = long.MaxValue;

    /// <summary>What a channel drives at a moment: what somebody drives by hand at it, else what it does itself; not a number where nothing is driven.</summary>
    public double LoadOf(int channel, BehaviourPort port, long now) => port.At == 0 && HandOf(channel) is { } hand ? hand : Runner?.LoadOf(channel, port).Now(now) ?? double.NaN;

    /// <summary>What somebody drives a channel to by hand; null where nobody does.</summary>
    public double? HandOf(int channel) => _byHand.TryGetValue(channel, out HandDrive? hand) ? hand.Value : null;

    /// <summary>Drives a channel by hand, within what it can be; null lets go of it.</summary>
    public void DriveByHand(long now, int channel, float? value)
    {
        IReadOnlyList<BehaviourPort> drives = Description.Form.Channels[channel].Behaviour.Drives;
        bool isMotor = drives.Any(d => d.MovedBy == drives[0]);
        HandDrive ran = isMotor && _byHand.TryGetValue(channel, out HandDrive? was) ? was.Until(now) : new HandDrive(null, now, 0, 0);
        if (value is { } hand) _byHand[channel] = ran with { Value = (float)Math.Clamp(hand, drives[0].Low, drives[0].High) };
        // What a motor has run is still to be asked for.
        else if (isMotor) _byHand[channel] = ran with { Value = null };
        else _byHand.Remove(channel);
        Moved();
    }

    /// <summary>For how long somebody has driven the motor of a channel down and up by hand since this was asked last, ms.</summary>
    public (long Down, long Up) HandRan(int channel, long now)
    {
        if (!_byHand.TryGetValue(channel, out HandDrive? hand)) return (0, 0);
        hand = hand.Until(now);
        if (hand.Value is null) _byHand.Remove(channel);
        else _byHand[channel] = hand with { Down = 0, Up = 0 };
        if (hand.Down != 0 || hand.Up != 0) Moved();
        return (hand.Down, hand.Up);
    }

    // By then its address may be another.
    private void Start(long now)
    {
        if (Runner is null) return;
        Runner.StaggerMilliseconds = Address.StaggerMilliseconds;
        Runner.Begin(now, Wake.Bus);
        Drain(now);
    }

    // Whatever may be otherwise now is kept anew, and may be due sooner.
    private void Moved()
    {
        _kept = null;
        _owner.Moved(this);
    }

    /// <summary>Somebody presses its button: it is in programming mode, or not any more.</summary>
    public void Press()
    {
        IsProgramming = IsAlive && !IsProgramming;
        Moved();
    }

    /// <summary>Somebody holds its button for ten seconds: it is as it came out of its box, without address, key and anything to do.</summary>
    public void Reset(long now)
    {
        (Address, IsProgramming, Application, Runner, State, _toolKey, _tookSequence) = (IndividualAddress.Factory, false, null, null, LoadState.Empty, null, 0);
        (_known, Coupling) = ([], CouplerSettings.Delivered);
        _byHand.Clear();
        Unstage();
        Moved();
    }

    /// <summary>Does all that is due by then.</summary>
    public void Run(long now)
    {
        Runner?.Run(now);
        Drain(now);
        Moved();
    }

    /// <summary>Something that it senses is otherwise; see <see cref="DeviceRunner.Sense"/>.</summary>
    public void Sense(long now, int channel, string port, double value)
    {
        Runner?.Sense(now, channel, port, value);
        Drain(now);
        Moved();
    }

    /// <summary>Its bus is gone, or back.</summary>
    public void Supply(long now, bool hasBus, bool isOff)
    {
        bool had = IsAlive;
        (HasBus, IsOff) = (hasBus, isOff);
        if (had == IsAlive) return;
        if (had)
        {
            Failures++;
            (FailedAt, IsProgramming) = (now, false);
            Runner?.Lose(now, Behaviours.Supply.Bus);
        }
        else
        {
            FedSince = now;
            Start(now);
        }
        Moved();
    }

    /// <summary>Its mains are gone, or back.</summary>
    public void Mains(long now, bool hasMains)
    {
        if (hasMains == HasMains) return;
        HasMains = hasMains;
        if (hasMains) Runner?.Begin(now, Wake.Mains);
        else Runner?.Lose(now, Behaviours.Supply.Mains);
        Drain(now);
        Moved();
    }

    /// <summary>Has what it is to do without a line: as if it had been written at the bench.</summary>
    public void Write(long now, ApplicationImage image, IndividualAddress? address = null)
    {
        if (address is { } given) Address = given;
        (_settings, _groups, _ties, _isStaged) = (new(image.Settings), [.. image.Groups], [.. image.Ties], true);
        Activate(now);
        Moved();
    }

    /// <inheritdoc/>
    public LineAnswer Answer(BusFrame frame) => frame.IsBroadcast || (frame.IsToGroup ? Runner is not null && _known.Contains(frame.Group) : IsAddressed(frame)) ? LineAnswer.Taken : LineAnswer.None;

    /// <inheritdoc/>
    public void Sent(long microseconds, BusFrame frame, bool isTaken)
    {
    }

    /// <inheritdoc/>
    public void Hear(long microseconds, BusFrame frame)
    {
        if (!IsAlive) return;
        long now = (microseconds + 999) / 1000;
        if (frame.IsBroadcast) HearAll(microseconds, frame);
        else if (!frame.IsToGroup && IsAddressed(frame)) HearOwn(microseconds, now, frame);
        else if (frame.IsToGroup && Runner is not null && _known.Contains(frame.Group))
        {
            if (frame.Service == BusService.GroupRead) Runner.Asked(now, frame.Group);
            else if (frame.Service is BusService.GroupWrite or BusService.GroupAnswer) Runner.Hear(now, frame.Group, frame.Value, frame.Service == BusService.GroupAnswer);
            Drain(now);
        }
        // What is for others moved nothing here.
        else return;
        Moved();
    }

    // All that came out of boxes have one address: at that only whose button was pressed answers.
    private bool IsAddressed(BusFrame frame) => frame.Device == Address && (Address != IndividualAddress.Factory || IsProgramming);

    // What goes to everybody: addresses by button and by serial number.
    private void HearAll(long microseconds, BusFrame frame)
    {
        switch (frame.Service)
        {
            case BusService.AddressWrite when IsProgramming && frame.Data.Length >= 2:
                Address = new(BinaryPrimitives.ReadUInt16BigEndian(frame.Data));
                break;
            case BusService.AddressRead when IsProgramming:
                Say(microseconds, BusFrame.ToAll(BusFrame.Say(BusService.AddressAnswer, [])));
                break;
            // One that is secured takes another address only while somebody stands before it.
            case BusService.SerialWrite when (!IsSecured || IsProgramming) && frame.Data.Length >= 8 && frame.Data[..6].SequenceEqual(BusSerial.Octets(Serial)):
                Address = new(BinaryPrimitives.ReadUInt16BigEndian(frame.Data[6..]));
                break;
            case BusService.SerialRead when frame.Data.Length >= 6 && frame.Data[..6].SequenceEqual(BusSerial.Octets(Serial)):
                Say(microseconds, BusFrame.ToAll(BusFrame.Say(BusService.SerialAnswer, [.. BusSerial.Octets(Serial), 0, 0, 0, 0])));
                break;
        }
    }

    private void HearOwn(long microseconds, long now, BusFrame frame)
    {
        byte[]? key = null;
        if (frame.Service == BusService.Secure)
        {
            key = _toolKey ?? (Description.CanBeSecured ? BusCertificate.OfStandIn(Serial).Key : null);
            if (key is null || SecureUnit.SequenceOf(frame) is not { } sequence || SecureUnit.Open(frame, key) is not { } opened || sequence <= _tookSequence) return;
            (_tookSequence, frame) = (sequence, opened);
        }
        // An answer has the number of its question: a number comes once each way, so that no answer stands for another.
        long number = _tookSequence;
        // What is secured tells what it is to anybody, and takes orders from nobody without the key.
        bool isOpen = key is not null || !IsSecured;
        void Answer(byte[] unit) => Say(microseconds, key is null ? BusFrame.ToDevice(frame.From, unit) : SecureUnit.Seal(BusFrame.ToDevice(frame.From, unit) with { From = Address }, key, number));
        switch (frame.Service)
        {
            case BusService.DescriptorRead:
                // The mask of a two-wire device with properties: 07B0.
                Answer(BusFrame.Say(BusService.DescriptorAnswer, [0x07, 0xB0]));
                break;
            case BusService.Restart when isOpen:
                IsProgramming = false;
                Start(now);
                break;
            case BusService.PropertyRead or BusService.PropertyWrite when BusPids.Read(frame) is var (part, pid, first, count, octets):
                bool isTaken = (part, pid) == (BusPart.Device, BusPids.ToolKey)
                    ? frame.Service == BusService.PropertyWrite && key is not null && TakeKey(octets)
                    : (isOpen || IsForAnybody(part, pid)) && (frame.Service == BusService.PropertyRead || (isOpen && Take(now, part, pid, first, count, octets)));
                byte[] answer = isTaken && pid == BusPids.ToolKey ? [1] : isTaken ? Have(now, part, pid, first, ref count, frame.Service == BusService.PropertyWrite) : [];
                if (!isTaken || answer.Length is 0 or > MostAnswer) (answer, count) = ([], 0);
                Answer(BusPids.Answer(part, pid, answer, first, count));
                Drain(now);
                break;
        }
    }

    // By these a device is found, told from others and its state seen.
    private static bool IsForAnybody(BusPart part, int pid) => part == BusPart.Device && pid is BusPids.Serial or BusPids.Hardware or BusPids.Firmware or BusPids.Secured or BusPids.LastSequence;

    private bool TakeKey(byte[] octets)
    {
        if (octets.Length != SecureUnit.KeyOctets) return false;
        _toolKey = octets;
        return true;
    }

    /// <summary>
    /// What a property is; nothing where it is not there. Tables and settings are those that run: what is being written, or broke
    /// off, is answered only to whoever has just written it.
    /// </summary>
    private byte[] Have(long now, BusPart part, int pid, int first, ref int count, bool isWritten)
    {
        DeviceForm form = Description.Form;
        ApplicationImage has = isWritten && _isStaged ? Staged() : Application ?? ApplicationImage.Empty;
        switch (part, pid)
        {
            case (BusPart.Device, BusPids.Serial):
                return BusSerial.Octets(Serial);
            case (BusPart.Device, BusPids.Firmware):
                return Version.TryParse(Description.Firmware, out Version? version) ? [(byte)version.Major, (byte)version.Minor] : [0, 0];
            case (BusPart.Device, BusPids.Hardware):
                return BusPids.HardwareOf(Description.Id, Description.Revision);
            case (BusPart.Device, BusPids.Programming):
                return [(byte)(IsProgramming ? 1 : 0)];
            case (BusPart.Device, BusPids.Secured):
                return [(byte)(IsSecured ? 1 : 0)];
            case (BusPart.Device, BusPids.LastSequence):
                return Eight(_tookSequence)[2..];
            case (BusPart.Device, BusPids.Failures):
                return Two(Math.Min(Failures, ushort.MaxValue));
            case (BusPart.Device, BusPids.FailedAt):
                return Eight(FailedAt);
            case (BusPart.Device, BusPids.FedSince):
                return Eight(FedSince);
            case (BusPart.Application, BusPids.Load):
                return [(byte)State];
            case (BusPart.Application, BusPids.Check):
                return Four(has.Check(form));
            case (BusPart.Groups, _) when BusPids.IndexOf(BusPids.Table, pid, first) is { } index:
                return Elements(has.Groups, index, ref count, g => Two(g.Raw), 2);
            case (BusPart.Ties, _) when BusPids.IndexOf(BusPids.Table, pid, first) is { } index:
                return Elements(has.Ties, index, ref count, ParameterWire.Write, 4);
            case (BusPart.Application, _) when BusPids.IndexOf(BusPids.SetPlaces, pid, first) is { } index:
                return Elements([.. has.Settings.Keys.Order()], index, ref count, Two, 2);
            case (BusPart.Application, _) when BusPids.IndexOf(BusPids.Values, pid, first) is { } at:
                if (at < 0 || at >= form.Parameters.Count || form.Parameters[at].Is.Sort == ParameterSort.Text) return [];
                count = 1;
                return ParameterWire.Write(form.Parameters[at].Is, has.Settings.GetValueOrDefault(at, form.Parameters[at].Is.Begins));
            case (BusPart.Application, BusPids.Texts):
                if (TextAt(first, out int place, out int piece) is not { } text) return [];
                byte[] letters = ParameterWire.Write(text.Is, has.Settings.GetValueOrDefault(place, text.Is.Begins)), out_ = new byte[ParameterWire.PieceOctets];
                if (piece * ParameterWire.PieceOctets is var from && from < letters.Length) letters.AsSpan(from, Math.Min(ParameterWire.PieceOctets, letters.Length - from)).CopyTo(out_);
                count = 1;
                return out_;
            case (BusPart.Application, BusPids.Drive) when Channel(first) is { } channel:
                byte[] single = new byte[4];
                BinaryPrimitives.WriteSingleBigEndian(single, channel.Behaviour.Drives.Count == 0 ? float.NaN : (float)LoadOf(first - 1, channel.Behaviour.Drives[0], now));
                count = 1;
                return single;
            case (BusPart.Application, BusPids.Hours or BusPids.Cycles or BusPids.Energy) when Channel(first) is not null:
                count = 1;
                return Double(Runner?.BehaviourOf(first - 1) is IMetered metered ? pid switch { BusPids.Hours => metered.Meter.Hours(now), BusPids.Cycles => metered.Meter.Cycles, _ => metered.Meter.WattHours(now, metered.Watts) } : double.NaN);
            default:
                return [];
        }
    }

    /// <summary>Takes what is written to a property; answers whether it did.</summary>
    private bool Take(long now, BusPart part, int pid, int first, int count, byte[] octets)
    {
        DeviceForm form = Description.Form;
        switch (part, pid)
        {
            case (BusPart.Device, BusPids.Programming) when octets.Length == 1:
                IsProgramming = octets[0] == 1;
                return true;
            case (BusPart.Application, BusPids.Load) when octets.Length >= 1:
                return Order(now, (LoadOrder)octets[0]);
            case (BusPart.Application, BusPids.Drive) when Channel(first) is { Behaviour.Drives.Count: > 0 }:
                float hand = octets.Length == 4 ? BinaryPrimitives.ReadSingleBigEndian(octets) : float.NaN;
                DriveByHand(now, first - 1, float.IsFinite(hand) ? hand : null);
                return true;
        }
        if (State != LoadState.Loading) return false;
        switch (part, pid)
        {
            case (BusPart.Groups, _) when BusPids.IndexOf(BusPids.Table, pid, first) is { } index:
                return Put(_groups, index, count, octets, 2, x => new GroupNumber(BinaryPrimitives.ReadUInt16BigEndian(x)));
            case (BusPart.Ties, _) when BusPids.IndexOf(BusPids.Table, pid, first) is { } index:
                return Put(_ties, index, count, octets, 4, x => ParameterWire.ReadTie(x));
            case (BusPart.Application, BusPids.Check) when octets.Length == 4:
                _promised = BinaryPrimitives.ReadUInt32BigEndian(octets);
                return true;
            case (BusPart.Application, _) when BusPids.IndexOf(BusPids.Values, pid, first) is { } at:
                if (at < 0 || at >= form.Parameters.Count || ParameterWire.Read(form.Parameters[at].Is, octets) is not { } value) return false;
                Set(at, value);
                return true;
            case (BusPart.Application, BusPids.Texts) when octets.Length == ParameterWire.PieceOctets && TextAt(first, out int place, out int piece) is { } text:
                if (!_texts.TryGetValue(place, out byte[]? letters)) _texts[place] = letters = new byte[ParameterWire.MostPieces * ParameterWire.PieceOctets];
                octets.CopyTo(letters, piece * ParameterWire.PieceOctets);
                // A letter of several octets may be cut between two pieces: what is no text yet becomes one with the next.
                if (ParameterWire.Read(text.Is, letters) is { } read) Set(place, read);
                return true;
            default:
                return false;
        }

        void Set(int at, string value)
        {
            if (value == form.Parameters[at].Is.Begins) _settings.Remove(at);
            else _settings[at] = value;
        }
    }

    private bool Order(long now, LoadOrder order)
    {
        switch (order)
        {
            case LoadOrder.BeginEmpty or LoadOrder.BeginFromPresent:
                ApplicationImage from = order == LoadOrder.BeginFromPresent && Application is not null ? Application : ApplicationImage.Empty;
                (_settings, _groups, _ties) = (new(from.Settings), [.. from.Groups], [.. from.Ties]);
                _texts.Clear();
                (_promised, _isStaged, State) = (0, true, LoadState.Loading);
                return true;
            case LoadOrder.Complete when State == LoadState.Loading:
                if (Staged().Check(Description.Form) != _promised)
                {
                    State = LoadState.Broken;
                    Unstage();
                    return false;
                }
                Activate(now);
                return true;
            case LoadOrder.Unload:
                (Application, Runner, State) = (null, null, LoadState.Empty);
                (_known, Coupling) = ([], CouplerSettings.Delivered);
                Unstage();
                return true;
            default:
                return false;
        }
    }

    private ApplicationImage Staged() => new(_settings, _groups, _ties);

    // What is being written is dropped; what it has is what it shows.
    private void Unstage()
    {
        ApplicationImage has = Application ?? ApplicationImage.Empty;
        (_settings, _groups, _ties, _isStaged) = (new(has.Settings), [.. has.Groups], [.. has.Ties], false);
        _texts.Clear();
    }

    private void Activate(long now)
    {
        DeviceMemory? before = Runner?.Remember();
        Application = new ApplicationImage(new Dictionary<int, string>(_settings), [.. _groups], [.. _ties]);
        State = LoadState.Loaded;
        Unstage();
        Make();
        // What a channel did, and counted, goes on where it does the same.
        if (before is not null) Runner!.Recall(before);
        Runner!.Begin(now, Wake.New);
        if (!HasMains) Runner.Lose(now, Behaviours.Supply.Mains);
        Drain(now);
    }

    private void Make()
    {
        DeviceForm form = Description.Form;
        Runner = new DeviceRunner(Application!.ValuesOn(form), Application.JoinsOn(form)) { StaggerMilliseconds = Address.StaggerMilliseconds };
        _known = [.. Application.Groups];
        if (Description.Role == LineRole.Coupler) Coupling = CouplerSettings.Of(Application.ValuesOn(form), _known);
    }

    private ChannelForm? Channel(int number) => number >= 1 && number <= Description.Form.Channels.Count ? Description.Form.Channels[number - 1] : null;

    private ParameterForm? TextAt(int element, out int place, out int piece)
    {
        (int nth, piece) = Math.DivRem(element - 1, ParameterWire.MostPieces);
        ParameterForm? text = element < 1 ? null : Description.Form.Parameters.Where(p => p.Is.Sort == ParameterSort.Text).ElementAtOrDefault(nth);
        place = text?.At ?? -1;
        return text;
    }

    private static byte[] Elements<T>(IReadOnlyList<T> list, int index, ref int count, Func<T, byte[]> write, int size)
    {
        if (index < 0)
        {
            count = 1;
            return Two(list.Count);
        }
        count = Math.Min(count, Math.Min(MostAnswer / size, list.Count - index));
        return count <= 0 ? [] : [.. list.Skip(index).Take(count).SelectMany(write)];
    }

    // Element 0 says how many there are to be: what is beyond is gone, what is missing waits to be written.
    private static bool Put<T>(List<T> list, int index, int count, byte[] octets, int size, ReadTo<T> read)
    {
        if (index < 0)
        {
            if (octets.Length != 2) return false;
            int most = BinaryPrimitives.ReadUInt16BigEndian(octets);
            if (most < list.Count) list.RemoveRange(most, list.Count - most);
            return true;
        }
        if (octets.Length != count * size || index > list.Count) return false;
        for (int i = 0; i < count; i++)
        {
            T one = read(octets.AsSpan(i * size, size));
            if (index + i < list.Count) list[index + i] = one;
            else list.Add(one);
        }
        return true;
    }

    private delegate T ReadTo<T>(ReadOnlySpan<byte> octets);

    private static byte[] Two(int number)
    {
        byte[] octets = new byte[2];
        BinaryPrimitives.WriteUInt16BigEndian(octets, (ushort)number);
        return octets;
    }

    private static byte[] Four(uint number)
    {
        byte[] octets = new byte[4];
        BinaryPrimitives.WriteUInt32BigEndian(octets, number);
        return octets;
    }

    private static byte[] Eight(long number)
    {
        byte[] octets = new byte[8];
        BinaryPrimitives.WriteInt64BigEndian(octets, number);
        return octets;
    }

    private static byte[] Double(double number)
    {
        byte[] octets = new byte[8];
        BinaryPrimitives.WriteDoubleBigEndian(octets, number);
        return octets;
    }

    private void Say(long microseconds, BusFrame frame) => _owner.Wants(this, frame with { From = Address }, microseconds);

    /// <summary>What its application wants to send goes to the line.</summary>
    private void Drain(long now)
    {
        if (Runner is not { HasSaid: true } runner) return;
        Span<byte> octets = stackalloc byte[16];
        while (runner.TryTake(out GroupTelegram telegram))
        {
            if (!IsAlive) continue;
            int length = telegram.IsRead ? 0 : telegram.Type.Write(telegram.Value, octets);
            Say(now * 1000, BusFrame.OfGroup(telegram.IsRead ? BusService.GroupRead : telegram.IsAnswer ? BusService.GroupAnswer : BusService.GroupWrite, telegram.Group, octets[..length], telegram.IsRead ? 1 : telegram.Type.Bits, telegram.Priority));
        }
    }

    /// <summary>What it keeps over a restart.</summary>
    public BusUnitMemory Remember() => _kept ??= new(Serial, Address, IsProgramming, State, Application, _isStaged ? new ApplicationImage(new Dictionary<int, string>(_settings), [.. _groups], [.. _ties]) : null,
        _texts.Count == 0 ? null : _texts.ToDictionary(t => t.Key, t => Convert.ToHexString(t.Value)), _promised, Runner?.Remember(), new Dictionary<int, HandDrive>(_byHand), Failures, FailedAt, FedSince, IsOff, HasMains, _toolKey is null ? null : new UnitSecurity(Convert.ToHexString(Locked(_toolKey, true)), _tookSequence));

    // In its memory a key stands only locked by that of the certificate, which no memory holds.
    private byte[] Locked(byte[] key, bool locks)
    {
        using var aes = System.Security.Cryptography.Aes.Create();
        aes.Key = BusCertificate.OfStandIn(Serial).Key;
        byte[] none = new byte[16];
        return locks ? aes.EncryptCbc(key, none, System.Security.Cryptography.PaddingMode.None) : aes.DecryptCbc(key, none, System.Security.Cryptography.PaddingMode.None);
    }

    /// <summary>Takes up what was kept.</summary>
    /// <param name="memory">What was kept.</param>
    /// <param name="hasBus">Whether its line feeds it.</param>
    public void Recall(BusUnitMemory memory, bool hasBus)
    {
        (Address, IsProgramming, State, Application) = (memory.Address, memory.IsProgramming, memory.State, memory.Application);
        (Failures, FailedAt, FedSince, IsOff, HasBus, HasMains) = (memory.Failures, memory.FailedAt, memory.FedSince, memory.IsOff, hasBus, memory.HasMains);
        (_toolKey, _tookSequence) = memory.Security is { } security ? (Locked(Convert.FromHexString(security.LockedKey), false), security.Took) : (null, 0);
        _byHand.Clear();
        foreach (var (channel, value) in memory.ByHand) _byHand[channel] = value;
        Unstage();
        if (Application is not null)
        {
            Make();
            if (memory.Runs is { } runs) Runner!.Recall(runs);
        }
        if (memory.Staged is not { } staged) return;
        (_settings, _groups, _ties, _promised, _isStaged) = (new(staged.Settings), [.. staged.Groups], [.. staged.Ties], memory.Promised, true);
        foreach (var (place, letters) in memory.Texts ?? new Dictionary<int, string>()) _texts[place] = Convert.FromHexString(letters);
    }
}
