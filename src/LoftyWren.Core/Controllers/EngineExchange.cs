using System.Text;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Controllers;

/// <summary>Who is told of points, and who was heard, over a restart.</summary>
public sealed record ExchangeMemory
{
    /// <summary>Those that asked to be told.</summary>
    public List<ListenerMemory> Listeners { get; init; } = [];

    /// <summary>When each other controller was heard last, and when it was last asked; ms of site time.</summary>
    public Dictionary<RecordId, PeerMemory> Peers { get; init; } = [];
}

/// <summary>One that asked: its address, the points it asked for with what it was told last of each, until when it counts, and when it is told next in any case; ms of site time.</summary>
public sealed record ListenerMemory(string Address, IReadOnlyList<RecordId> Points, IReadOnlyList<PinMemory> Told, long Until, long NextBeat);

/// <summary>When another controller was heard last and asked last, ms of site time.</summary>
public sealed record PeerMemory(long? HeardAt, long? AskedAt);

/// <content>
/// Values of points that live elsewhere, by messages over a network: a controller asks the one that a point lives on to be
/// told of it, and is told all at once, then what changes, and every so often in any case, so that silence means something.
/// </content>
public sealed partial class ControllerEngine
{
    /// <summary>Told in any case at least this often, ms.</summary>
    public const int TellAgain = 10_000;

    /// <summary>Heard nothing for this long, what is known of another controller's points is stale, ms.</summary>
    public const int SilentAfter = 25_000;

    private const int AskAgain = 60_000, AskSilentAgain = 5_000, ListensFor = 150_000;
    private const byte Asks = 1, TellsAll = 2, TellsChanges = 3;
    private readonly MessagePort _network;
    private readonly Peer[] _peers;
    private readonly List<Listener> _listeners = [];

    /// <summary>Another controller whose points are read here; the points are places in the image's list of them.</summary>
    private sealed class Peer(RecordId hostId, int[] points)
    {
        public RecordId HostId { get; } = hostId;

        public int[] Points { get; } = points;

        public long? HeardAt { get; set; }

        public long? AskedAt { get; set; }

        public bool IsSilent(long now) => HeardAt is not { } at || now - at > SilentAfter;
    }

    /// <summary>Somebody who is told; a point that is not at home here is −1.</summary>
    private sealed class Listener(string address, RecordId[] ids, int[] points)
    {
        public string Address { get; } = address;

        public RecordId[] Ids { get; } = ids;

        public int[] Points { get; } = points;

        public PinValue[] Told { get; } = new PinValue[points.Length];

        public long Until { get; set; }

        public long NextBeat { get; set; }

        /// <summary>Whether it must be told all, since another program tells it now, which may not have what the old one had.</summary>
        public bool IsToldAll { get; set; }
    }

    private void Ask(long now)
    {
        foreach (Peer peer in _peers)
        {
            bool isSilent = peer.IsSilent(now);
            if (isSilent)
            {
                foreach (int remote in peer.Points) MarkStale(remote, now);
            }
            if (peer.AskedAt is { } asked && now - asked < (isSilent ? AskSilentAgain : AskAgain)) continue;
            peer.AskedAt = now;
            _network.Say(peer.HostId.Value, Write(Asks, [.. peer.Points.Select(p => (_points[_remote[p]].Id, default(PinValue)))]));
        }
    }

    private void Tell(long now)
    {
        for (int l = _listeners.Count - 1; l >= 0; l--)
        {
            Listener listener = _listeners[l];
            if (now > listener.Until)
            {
                _listeners.RemoveAt(l);
                continue;
            }
            bool isChanged = false;
            for (int i = 0; i < listener.Points.Length && !isChanged; i++) isChanged = listener.Points[i] >= 0 && !Same(_readings[listener.Points[i]], listener.Told[i]);
            if (isChanged || now >= listener.NextBeat) Tell(listener, now, listener.IsToldAll ? TellsAll : TellsChanges);
        }
    }

    private void Tell(Listener listener, long now, byte what)
    {
        var values = new List<(RecordId, PinValue)>();
        for (int i = 0; i < listener.Points.Length; i++)
        {
            if (listener.Points[i] < 0 || (what == TellsChanges && Same(_readings[listener.Points[i]], listener.Told[i]))) continue;
            listener.Told[i] = _readings[listener.Points[i]];
            values.Add((listener.Ids[i], listener.Told[i]));
        }
        (listener.NextBeat, listener.IsToldAll) = (now + TellAgain, false);
        _network.Say(listener.Address, Write(what, values));
    }

    private static bool Same(PinValue a, PinValue b) => a.Status == b.Status && a.Value.Equals(b.Value);

    private void Hear(long now, Telegram telegram)
    {
        // What cannot be read is noise on the line: who meant something will say it again.
        if (Read(telegram.Body.Span) is not { } said) return;
        if (said.What == Asks)
        {
            _listeners.RemoveAll(l => l.Address == telegram.From);
            RecordId[] ids = [.. said.Values.Select(v => v.Id)];
            var listener = new Listener(telegram.From, ids, [.. ids.Select(id => IsHome(id) ? _index[id] : -1)]) { Until = now + ListensFor };
            _listeners.Add(listener);
            Tell(listener, now, TellsAll);
            return;
        }
        if (Array.Find(_peers, p => p.HostId.Value == telegram.From) is not { } peer) return;
        peer.HeardAt = now;
        foreach (int remote in peer.Points)
        {
            RecordId id = _points[_remote[remote]].Id;
            int at = said.Values.FindIndex(v => v.Id == id);
            if (at >= 0) Set(_remote[remote], said.Values[at].Value.Value, said.Values[at].Value.Status, now);
            else if (said.What == TellsAll) MarkStale(remote, now);
        }
    }

    /// <summary>The last value known of a point elsewhere stays, with a mark that it cannot be had.</summary>
    private void MarkStale(int remote, long now) => Set(_remote[remote], _readings[_remote[remote]].Value, _readings[_remote[remote]].Status | StatusFlags.Stale, now);

    // What it is, how many, then for each a length and the id in UTF-8, the value (8 bytes) and its status (1 byte), low byte first.
    private static byte[] Write(byte what, IReadOnlyList<(RecordId Id, PinValue Value)> values)
    {
        using var stream = new MemoryStream();
        using var writer = new BinaryWriter(stream, Encoding.UTF8);
        writer.Write(what);
        writer.Write((ushort)values.Count);
        foreach (var (id, value) in values)
        {
            writer.Write(id.Value);
            writer.Write(value.Value);
            writer.Write((byte)value.Status);
        }
        return stream.ToArray();
    }

    private static (byte What, List<(RecordId Id, PinValue Value)> Values)? Read(ReadOnlySpan<byte> body)
    {
        try
        {
            using var reader = new BinaryReader(new MemoryStream(body.ToArray()), Encoding.UTF8);
            byte what = reader.ReadByte();
            var values = new List<(RecordId, PinValue)>();
            for (int count = reader.ReadUInt16(); count > 0; count--)
            {
                string id = reader.ReadString();
                if (!RecordId.IsValid(id)) return null;
                values.Add((new RecordId(id), new PinValue(reader.ReadDouble(), (StatusFlags)reader.ReadByte())));
            }
            return what is Asks or TellsAll or TellsChanges ? (what, values) : null;
        }
        catch (Exception e) when (e is IOException or ArgumentException or FormatException)
        {
            return null;
        }
    }

    private ExchangeMemory RememberExchange() => new()
    {
        Listeners = [.. _listeners.Select(l => new ListenerMemory(l.Address, [.. l.Ids], [.. l.Told.Select(t => new PinMemory(OrNull(t.Value), t.Status))], l.Until, l.NextBeat))],
        Peers = _peers.ToDictionary(p => p.HostId, p => new PeerMemory(p.HeardAt, p.AskedAt)),
    };

    private void RecallExchange(ExchangeMemory memory, Resumption how)
    {
        foreach (ListenerMemory kept in memory.Listeners)
        {
            var listener = new Listener(kept.Address, [.. kept.Points], [.. kept.Points.Select(id => IsHome(id) ? _index[id] : -1)]) { Until = kept.Until, NextBeat = how == Resumption.GoesOn ? kept.NextBeat : long.MinValue, IsToldAll = how != Resumption.GoesOn };
            for (int i = 0; i < Math.Min(listener.Told.Length, kept.Told.Count); i++) listener.Told[i] = new PinValue(kept.Told[i].V ?? double.NaN, kept.Told[i].F);
            _listeners.Add(listener);
        }
        // Who was off has heard nobody meanwhile; and only the same program that goes on has asked already.
        foreach (Peer peer in _peers)
        {
            if (how == Resumption.AfterPause || !memory.Peers.TryGetValue(peer.HostId, out PeerMemory? kept)) continue;
            peer.HeardAt = kept.HeardAt;
            if (how == Resumption.GoesOn) peer.AskedAt = kept.AskedAt;
        }
    }
}
