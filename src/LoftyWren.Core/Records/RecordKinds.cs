using System.Collections.Frozen;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Bus.Conversations;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Groups;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Plant;
using LoftyWren.Core.Points;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Trends;

namespace LoftyWren.Core.Records;

/// <summary>The registry of all kinds of record.</summary>
public static class RecordKinds
{
    private static readonly Lock Gate = new();

    private static readonly List<RecordKind> Registered =
    [
        Place.AsKind, Equipment.AsKind, Point.AsKind, Controller.AsKind, IoModule.AsKind, Fitting.AsKind, SensorCurve.AsKind, OwnModel.AsKind, OwnDescription.AsKind, BusLine.AsKind, BusDevice.AsKind, GroupAddress.AsKind, BusBinding.AsKind, GroupRange.AsKind, Conversation.AsKind, Story.AsKind, PlantTie.AsKind, Sequence.AsKind, Schedule.AsKind, TrendLog.AsKind, AlarmRule.AsKind,
        TaggingRule.AsKind, Silence.AsKind, NamingConvention.AsKind,
    ];

    private static Read? _read;

    /// <summary>Adds a kind; before anything has asked for the kinds.</summary>
    /// <exception cref="InvalidOperationException">They have been asked for, or the kind's key or type is there already.</exception>
    public static void Register(RecordKind kind)
    {
        lock (Gate)
        {
            if (_read is not null) throw new InvalidOperationException($"The kinds have been read; register {kind.Key} before anything asks for them.");
            if (Registered.Any(k => k.Key == kind.Key || k.Type == kind.Type)) throw new InvalidOperationException($"There is a kind {kind.Key} already.");
            Registered.Add(kind);
        }
    }

    /// <summary>All kinds, in the order of their registration.</summary>
    public static IReadOnlyList<RecordKind> All => Now.All;

    /// <summary>The kind of a record.</summary>
    public static RecordKind Of(ProjectRecord record) => Now.ByType[record.GetType()];

    /// <summary>The kind with this key, or null.</summary>
    public static RecordKind? Find(string key) => Now.ByKey.GetValueOrDefault(key);

    /// <summary>A word for records, or null when it is none.</summary>
    public static KindNoun? NounOf(string noun) => Now.ByNoun.GetValueOrDefault(noun);

    /// <summary>All words for records.</summary>
    public static IEnumerable<KindNoun> Nouns => All.SelectMany(k => k.Nouns);

    private static Read Now
    {
        get
        {
            if (_read is { } read) return read;
            lock (Gate) return _read ??= new Read([.. Registered]);
        }
    }

    private sealed class Read(RecordKind[] all)
    {
        public RecordKind[] All { get; } = all;

        public FrozenDictionary<Type, RecordKind> ByType { get; } = all.ToFrozenDictionary(k => k.Type);

        public FrozenDictionary<string, RecordKind> ByKey { get; } = all.ToFrozenDictionary(k => k.Key);

        public FrozenDictionary<string, KindNoun> ByNoun { get; } = all.SelectMany(k => k.Nouns).ToFrozenDictionary(n => n.Noun);
    }
}
