using LoftyWren.Core.Claims;
using LoftyWren.Core.Controllers;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Sequences;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Claims;

/// <summary>Least times on and off at the output itself: priority 6 of ISO 16484-5, 19.2.3.</summary>
public class LeastTimeTests
{
    private static Project Timed(double? on, double? off)
    {
        Project project = Project();
        return Accept(project, project.Find<Point>(FanCommand)! with { LeastOn = on, LeastOff = off });
    }

    private static readonly long Noon = At(2026, 4, 13, 12, 0);

    [Fact]
    public void Once_on_it_stays_on_for_its_time_whatever_lets_it_go_and_says_why()
    {
        ControllerEngine engine = Engine(Timed(300, 120));
        engine.ScanAt(Noon, 20);
        engine.ScanAt(Noon + 1000, 40);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
        for (int s = 2; s <= 300; s++)
        {
            engine.ScanAt(Noon + (s * 1000), 20);
            Assert.Equal((s, 1d), (s, engine.Read(FanCommand)!.Value.Value));
        }
        Assert.Contains("stays so for at least 5 min, until 12:05.", engine.Explain(FanCommand)!.AsText(), StringComparison.Ordinal);
        Assert.Equal(Ladder.LeastTimes, engine.ViewLadder(FanCommand)!.Winner);
        engine.ScanAt(Noon + 301_000, 20);
        Assert.Equal(0, engine.Read(FanCommand)!.Value.Value);
        // Off since 301 s: it comes on again after 120 s, not before.
        for (int s = 302; s < 421; s++) engine.ScanAt(Noon + (s * 1000), 40);
        Assert.Equal(0, engine.Read(FanCommand)!.Value.Value);
        engine.ScanAt(Noon + 421_000, 40);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
    }

    [Fact]
    public void A_hand_at_8_waits_for_it_and_what_is_stronger_than_6_does_not()
    {
        ControllerEngine engine = Engine(Timed(300, null));
        engine.ScanAt(Noon, 20);
        engine.ScanAt(Noon + 1000, 40);
        engine.HoldByHand(new Hold(FanCommand, 0, "engineer", "test", Noon, null));
        engine.ScanAt(Noon + 2000, 40);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
        engine.LadderOf(FanCommand)!.Claim(1, 0, Status.StatusFlags.None);
        engine.ScanAt(Noon + 3000, 40);
        Assert.Equal(0, engine.Read(FanCommand)!.Value.Value);
    }

    /// <summary>While a controller is off its outputs are at rest: what was on has been off since then, and its least time off counts from there.</summary>
    [Theory]
    [InlineData(30, 90)]
    [InlineData(600, 0)]
    public void After_power_was_gone_it_counts_from_when_it_went(int gone, int waits)
    {
        Project project = Timed(null, 120);
        ControllerEngine engine = Engine(project);
        engine.ScanAt(Noon, 20);
        engine.ScanAt(Noon + 1000, 40);
        EngineMemory memory = engine.Remember();
        long back = Noon + 1000 + (gone * 1000);
        engine = Engine(project);
        engine.Recall(memory, Resumption.AfterPause);
        engine.Start = new DeviceStart(RestartReason.DetectedPowerLost, back, SystemStatus.Operational);
        for (int s = 0; s < waits; s++)
        {
            engine.ScanAt(back + (s * 1000), 40);
            Assert.Equal((s, 0d), (s, engine.Read(FanCommand)!.Value.Value));
        }
        engine.ScanAt(back + (waits * 1000), 40);
        Assert.Equal(1, engine.Read(FanCommand)!.Value.Value);
    }

    /// <summary>The law, under whatever claims there are, at whatever beat, over sends: no state is shorter than its time, unless something stronger than 6 said so.</summary>
    [Fact]
    public void No_state_is_shorter_than_its_time_whatever_claims_it()
    {
        var random = new Random(6);
        for (int round = 0; round < 40; round++)
        {
            int on = random.Next(0, 40), off = random.Next(0, 40);
            Project project = Timed(on, off);
            ControllerEngine engine = Engine(project);
            long now = Noon, since = now;
            double was = double.NaN;
            for (int i = 0; i < 300; i++)
            {
                now += random.Next(1, 4) * 1000;
                int priority = random.Next(9, 16);
                if (random.Next(3) == 0) engine.LadderOf(FanCommand)!.Release(priority);
                else engine.LadderOf(FanCommand)!.Claim(priority, random.Next(2), Status.StatusFlags.None);
                if (random.Next(8) == 0) engine.HoldByHand(new Hold(FanCommand, random.Next(2), "a", "b", now, null));
                if (random.Next(8) == 0) engine.ReleaseHold(FanCommand);
                if (random.Next(20) == 0)
                {
                    EngineMemory memory = engine.Remember();
                    engine = Engine(project);
                    engine.Recall(memory, random.Next(2) == 0 ? Resumption.TakesOver : Resumption.GoesOn);
                }
                engine.ScanAt(now, 15 + (random.NextDouble() * 30));
                double value = engine.Read(FanCommand)!.Value.Value == 1 ? 1 : 0;
                if (value == was) continue;
                if (!double.IsNaN(was)) Assert.True(since == Noon || now - since >= (was == 1 ? on : off) * 1000, $"round {round}: {was} for {(now - since) / 1000} s, at least {(was == 1 ? on : off)} s");
                (was, since) = (value, double.IsNaN(was) ? Noon : now);
            }
        }
    }

    [Fact]
    public void Priority_6_belongs_to_them_and_only_binary_commands_have_them()
    {
        Project timed = Timed(60, null);
        Sequence sequence = timed.Referrers<Sequence>(FanCommand).First();
        Sequence claims = sequence with { Commands = [.. sequence.Commands.Select(c => c.PointId == FanCommand ? c with { Claims = [.. c.Claims, new Claim { Priority = 6 }] } : c)] };
        Refuses(timed, claims, "commands", "Priority 6 of this output is already claimed by ‘Extract fan’. Choose a free priority.");
        Project plain = Accept(Project(), claims);
        Refuses(plain, plain.Find<Point>(FanCommand)! with { LeastOff = 60 }, "leastOn", $"Least times of ‘Extract fan’ speak at priority 6, which ‘{sequence.Name}’ claims. Give that claim another priority first.");
        Point sensor = timed.All<Point>().First(p => p.Role == PointRole.Sensor);
        Refuses(timed, sensor with { LeastOn = 5 }, "leastOn", $"‘{sensor.Name}’ is no binary command; only those have a least time on. Clear it.");
        Refuses(timed, timed.Find<Point>(FanCommand)! with { LeastOn = -1 }, "leastOn", "The least time on of ‘Extract fan’ is -1 s; it must be from 0 to 86400 s.");
    }
}
