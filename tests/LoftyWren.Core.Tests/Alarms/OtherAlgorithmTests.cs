using System.Runtime.CompilerServices;
using System.Text.Json;
using LoftyWren.Core.Alarms;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Explanations;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Alarms;

/// <summary>A rule that only tests know: off normal while a value is one of some, by the change-of-state algorithm of ISO 16484-5, 13.3.2, without delays; it counts how often that came about.</summary>
public sealed record OddStates : EventRule
{
    public static RecordKind<OddStates> AsKind { get; } = new("oddStates") { Nouns = [new("odd states rule", "odd states rules")], RunsInImage = true };

    public IReadOnlyList<double> Odd { get; init; } = [];

    public override ProjectRecord Through(ReferenceMap map) => map.Owner(Of, PointId) is var point && point == PointId ? this : this with { PointId = point };

    private static readonly ReferenceSort Of = ReferenceSort.Owner<Point>("of", "pointId", "point");

    public override IEnumerable<Refusal> Check(Project project) => CheckName();

    public override IEventAlgorithm Begin() => new Algorithm(Odd);

    public override Because Tell(IEventAlgorithm algorithm, IEventTelling about) => Because.Of($"‘{Name}’ has been {algorithm.State} since {about.Time(algorithm.Since)}: {about.Point} is {about.Now}; it was odd {((Algorithm)algorithm).Times} times.", [Id]);

    private sealed class Algorithm(IReadOnlyList<double> odd) : IEventAlgorithm
    {
        public int Times { get; private set; }

        public EventState State { get; private set; }

        public long Since { get; private set; }

        public EventState Pending => State;

        public long PendingSince => Since;

        public bool Update(long now, double value, StatusFlags status)
        {
            EventState next = (status & (StatusFlags.Fault | StatusFlags.Released)) != 0 ? EventState.Fault : odd.Contains(value) ? EventState.Offnormal : EventState.Normal;
            if (next == State) return false;
            (State, Since) = (next, now);
            if (next == EventState.Offnormal) Times++;
            return true;
        }

        public AlarmMemory Remember() => new(State, Since, More: new Dictionary<string, double> { ["times"] = Times });

        public void Restore(AlarmMemory memory, long? last) => (State, Since, Times) = (memory.State, memory.Since, (int)(memory.More?.GetValueOrDefault("times") ?? 0));
    }
}

internal static class OddRegistration
{
    [ModuleInitializer]
    internal static void Register() => RecordKinds.Register(OddStates.AsKind);
}

/// <summary>Another event algorithm needs a kind of rule and nothing else: it is sent, asked, told of, kept and explained.</summary>
public class OtherAlgorithmTests
{
    private static readonly RecordId Rule = new("odd");

    [Fact]
    public void It_runs_beside_the_others()
    {
        Project project = KilnRoom.Accept(KilnRoom.Project(), new OddStates { Id = Rule, Name = "Fan runs", PointId = KilnRoom.FanCommand, Odd = [1] });
        ControllerEngine engine = KilnRoom.Engine(project);
        long now = KilnRoom.At(2026, 4, 15, 8, 0);
        void Scan(double fan)
        {
            engine.HoldByHand(new Hold(KilnRoom.FanCommand, fan, "technician", "to see", now, null));
            engine.Run(now += 1000);
        }
        Scan(0);
        Scan(1);
        Scan(0);
        Scan(1);
        var mine = engine.EventsAfter(0).Where(e => e.AlarmId == Rule).ToList();
        Assert.Equal([EventState.Offnormal, EventState.Normal, EventState.Offnormal], mine.Select(e => e.To));
        Assert.True((engine.Read(KilnRoom.FanCommand)!.Value.Status & StatusFlags.InAlarm) != 0);
        Assert.EndsWith("it was odd 2 times.", engine.Explain(Rule)!.Fact);

        ControllerEngine again = KilnRoom.Engine(project);
        again.Recall(JsonSerializer.Deserialize<EngineMemory>(JsonSerializer.Serialize(engine.Remember(), RecordJson.Options), RecordJson.Options)!, Resumption.GoesOn);
        Assert.EndsWith("it was odd 2 times.", again.Explain(Rule)!.Fact);
        again.Run(now + 1000);
        Assert.Empty(again.EventsAfter(mine[^1].Number));
    }
}
