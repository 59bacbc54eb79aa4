using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>
/// Laws over what supplies, alarms, locks and orders do to a device in any order. Every story is random and dense: several
/// events fall within a second, and bus and mains come and go between them.
/// </summary>
public sealed class SupplyLawTests
{
    private const string Blinds = "blinds-4", Switches = "switch-10", Dimmers = "dimmer-4";

    /// <summary>A device in a story: what it drives over time, and what a receiver knows that heard all that was sent.</summary>
    private sealed class Story : IDeviceTeller
    {
        private readonly Dictionary<(int Channel, string Port), List<(long At, double Value)>> _driven = [];
        private readonly Dictionary<int, double> _received = [];

        public Story(string id, IReadOnlyDictionary<string, string> settings)
        {
            Values = DeviceValues.Of(DescriptionShelf.Shipped.Single(d => d.Id == id).Form, settings);
            Device = new DeviceRunner(Values, Values.Form.Objects.Select((o, i) => (o.Path, (IReadOnlyList<Core.Bus.GroupNumber>)[new Core.Bus.GroupNumber((ushort)(i + 1))])), this);
            Device.Begin(0, Wake.New);
            Take();
        }

        public DeviceValues Values { get; }

        public DeviceRunner Device { get; }

        public long Now { get; private set; }

        public int Sent { get; private set; }

        public List<(long At, double Value)> Driven(int channel, string port) => _driven.GetValueOrDefault((channel, port), []);

        public double Received(string path) => _received.GetValueOrDefault(Values.Form.FindObject(path)!.At, double.NaN);

        public void Until(long at)
        {
            for (int steps = 0; Device.NextDue <= at; steps++)
            {
                Assert.True(steps < 200_000, $"{Values.Form.Description.Id} is due again and again at {Now}");
                Now = Math.Max(Now, Device.NextDue);
                Device.Run(Now);
                Take();
            }
            Now = Math.Max(Now, at);
        }

        public void Do(long at, Action<DeviceRunner, long> act)
        {
            Until(at);
            act(Device, Now);
            Take();
        }

        public void Tell(long at, string path, double value) => Do(at, (d, now) => d.Write(now, Values.Form.FindObject(path)!, value));

        public void Lose(long at, Supply supply, long length)
        {
            Do(at, (d, now) => d.Lose(now, supply));
            Do(at + length, (d, now) => d.Begin(now, supply == Supply.Bus ? Wake.Bus : Wake.Mains));
        }

        // Both supplies are there again.
        public void Restore(long at)
        {
            if (!Device.HasMains) Do(at, (d, now) => d.Begin(now, Wake.Mains));
            if (!Device.HasBus) Do(at, (d, now) => d.Begin(now, Wake.Bus));
        }

        private void Take()
        {
            while (Device.TryTake(out GroupTelegram telegram))
            {
                Sent++;
                if (!telegram.IsRead) _received[telegram.Group.Raw - 1] = telegram.Value;
            }
        }

        void IDeviceTeller.Said(DeviceRunner device, ObjectForm what, double value, bool sends, ParameterDescription? by, string fact)
        {
        }

        void IDeviceTeller.Heard(DeviceRunner device, ObjectForm what, double value)
        {
        }

        void IDeviceTeller.Drove(DeviceRunner device, int channel, BehaviourPort what, Course course, ParameterDescription? by, string fact)
        {
            if (!_driven.TryGetValue((channel, what.Key), out var list)) _driven[(channel, what.Key)] = list = [];
            list.Add((Now, course.To));
        }
    }

    /// <summary>Random events in bursts: several within the same second, then some seconds of rest.</summary>
    private static List<(long At, Action<DeviceRunner, long> Do)> Bursts(DeviceValues values, Random chance, int count) =>
        [.. BehaviourLawTests.Events(values, chance, count).Select(e => (At: (e.At / 20_000 * 20_000) + chance.NextInt64(0, 900), e.Do)).OrderBy(e => e.At)];

    private static Dictionary<string, string> Settings(string id, Random chance, params (string Path, string Value)[] fixedOnes)
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == id).Form;
        DeviceValues values = BehaviourLawTests.Random(form, chance);
        var set = values.Differing.ToDictionary(p => p.Path, p => values.ValueOf(p.At));
        foreach (var (path, value) in fixedOnes) set[path] = value;
        return set;
    }

    [Fact]
    public void No_motor_reverses_without_its_pause()
    {
        int reversals = 0;
        for (int seed = 0; seed < 400; seed++)
        {
            var chance = new Random(seed);
            var story = new Story(Blinds, Settings(Blinds, chance, ("blind1.function", seed % 2 == 0 ? "slats" : "shutter")));
            foreach (var (at, act) in Bursts(story.Values, chance, 80)) story.Do(at, act);
            for (int channel = 1; channel <= 4; channel++)
            {
                if (story.Values.Form.ParameterAt(channel, "pause") is not (>= 0 and var at)) continue;
                double pause = Parameters.Number(story.Values.ValueOf(at))!.Value * 1000;
                double runs = 0, ran = 0;
                long stopped = long.MinValue;
                foreach (var (moment, value) in story.Driven(channel, "motor"))
                {
                    if (value != runs && runs != 0) (ran, stopped) = (runs, moment);
                    if (value != 0 && value == -ran && value != runs)
                    {
                        reversals++;
                        Assert.True(moment - stopped >= pause, $"seed {seed}, channel {channel}: stopped at {stopped}, reversed at {moment}");
                    }
                    runs = value;
                }
            }
        }
        Assert.True(reversals > 500, $"{reversals}");
    }

    [Theory]
    [InlineData("up", 0)]
    [InlineData("down", 100)]
    [InlineData("height", 37)]
    public void What_an_alarm_commands_holds_over_any_loss_and_return(string reaction, double height)
    {
        for (int seed = 0; seed < 150; seed++)
        {
            var chance = new Random(seed);
            var story = new Story(Blinds, Settings(Blinds, chance, ("blind1.function", "slats"), ("blind1.wind", reaction), ("blind1.windHeight", "37"), ("blind1.windRank", "1"), ("blind1.windWatch", "0"), ("blind1.downTime", "40"), ("blind1.upTime", "45"),
                ("blind1.stopInAlarm", "no"), ("blind1.rain", "none"), ("blind1.frost", "none"), ("blind1.window", "none"), ("blind1.lock", "none"), ("blind1.referenceAfter", "0"), ("blind1.slatTime", "2"), ("blind1.reserve", "3"), ("blind1.slowEnd", "0")));
            long at = 0;
            story.Tell(at += 1000, "blind1.move", chance.Next(2));
            story.Tell(at += chance.Next(100, 60_000), "blind1.position", chance.Next(101));
            // The alarm may come in any state of the supplies but without bus, and orders after it.
            if (chance.Next(2) == 0) story.Do(at += chance.Next(100, 5000), (d, now) => d.Lose(now, Supply.Mains));
            story.Tell(at += chance.Next(100, 60_000), "blind1.windAlarm", 1);
            for (int i = 0; i < 6; i++)
            {
                at += chance.Next(50, 20_000);
                switch (chance.Next(4))
                {
                    case 0 when story.Device.HasBus:
                        story.Do(at, (d, now) => d.Lose(now, Supply.Bus));
                        break;
                    case 1 when story.Device.HasMains:
                        story.Do(at, (d, now) => d.Lose(now, Supply.Mains));
                        break;
                    case 2:
                        story.Restore(at);
                        break;
                    default:
                        story.Tell(at, chance.Next(2) == 0 ? "blind1.move" : "blind1.stepIt", chance.Next(2));
                        break;
                }
            }
            story.Restore(at += 1000);
            story.Until(at + 200_000);
            Assert.Equal(height, story.Driven(1, "height")[^1].Value, 1);
            Assert.Equal(0, story.Driven(1, "motor")[^1].Value);
        }
    }

    [Fact]
    public void Minimum_times_hold_through_every_event()
    {
        int changes = 0;
        for (int seed = 0; seed < 200; seed++)
        {
            var chance = new Random(seed);
            string function = new[] { "switching", "delay", "staircase", "pulse", "valve" }[seed % 5];
            var story = new Story(Switches, Settings(Switches, chance, ("output1.function", function), ("output1.leastOn", "20"), ("output1.leastOff", "30"), ("output1.warning", "0"), ("output1.contact", "open"), ("output1.valve", "closed")));
            foreach (var (at, act) in Bursts(story.Values, chance, 120)) story.Do(at, act);
            List<(long At, double Value)> moved = [.. story.Driven(1, "output")];
            for (int i = moved.Count - 1; i > 0; i--)
            {
                if (moved[i].Value == moved[i - 1].Value) moved.RemoveAt(i);
            }
            changes += moved.Count;
            for (int i = 2; i < moved.Count; i++) Assert.True(moved[i].At - moved[i - 1].At >= (moved[i - 1].Value > 0 ? 20_000 : 30_000), $"seed {seed}: {moved[i - 1]} → {moved[i]}");
        }
        Assert.True(changes > 600, $"{changes}");
    }

    [Fact]
    public void A_fans_stage_stays_for_its_minimum_time_through_every_event_but_the_loss_of_the_mains()
    {
        int changes = 0;
        for (int seed = 0; seed < 100; seed++)
        {
            var chance = new Random(seed);
            var story = new Story("fan-coil-2", Settings("fan-coil-2", chance, ("room1.fan", "stages"), ("room1.stages", "3"), ("room1.stageFor", "60"), ("room1.kickStage", "2"), ("room1.kickFor", "5")));
            var without = new List<long>();
            foreach (var (at, act) in Bursts(story.Values, chance, 100))
            {
                bool had = story.Device.HasMains;
                story.Do(at, act);
                if (had && !story.Device.HasMains) without.Add(story.Now);
            }
            List<(long At, double Value)> moved = [.. story.Driven(1, "fanStage")];
            changes += moved.Count;
            for (int i = 1; i < moved.Count; i++)
            {
                // A kick start is left for the stage that is wanted.
                bool kicked = moved[i - 1].Value == 2 && (i < 2 || moved[i - 2].Value == 0) && moved[i].Value is 1 or 3;
                Assert.True(moved[i].At - moved[i - 1].At >= 60_000 || kicked || without.Contains(moved[i].At), $"seed {seed}: {moved[i - 1]} → {moved[i]}");
            }
        }
        Assert.True(changes > 200, $"{changes}");
    }

    public static TheoryData<string> Devices => BehaviourLawTests.Devices;

    // Counters are sent by their own clock, measured values when they have moved.
    private static readonly string[] NotStates = ["hours", "cycles", "energy", "count", "alive"];

    [Theory]
    [MemberData(nameof(Devices))]
    public void Every_state_that_is_sent_is_true_again_after_the_bus_has_returned(string id)
    {
        int compared = 0;
        for (int seed = 0; seed < 40; seed++)
        {
            var chance = new Random(seed);
            var story = new Story(id, Settings(id, chance));
            foreach (var (at, act) in Bursts(story.Values, chance, 60)) story.Do(at, act);
            // The bus fails once more, things change meanwhile, and it returns; then nothing more happens.
            long now = Math.Max(story.Now, 600_000) + 1000;
            if (story.Device.HasBus) story.Do(now, (d, at) => d.Lose(at, Supply.Bus));
            var sensed = story.Values.Form.Channels.SelectMany(c => c.Behaviour.Senses).DistinctBy(s => s.Key).ToList();
            var found = new Dictionary<string, double>();
            foreach (BehaviourPort port in sensed)
            {
                double value = found[port.Key] = chance.Next(2) == 0 ? port.Low : port.High;
                story.Do(now += 100, (d, at) => d.Sense(at, -1, port.Key, value));
            }
            if (story.Device.HasMains && chance.Next(3) == 0) story.Do(now += 100, (d, at) => d.Lose(at, Supply.Mains));
            story.Do(now += 1000, (d, at) => d.Begin(at, Wake.Bus));
            story.Until(now + 4 * 3_600_000);
            foreach (ObjectForm o in story.Values.Form.Objects)
            {
                if (!o.Sends || !o.Flags.Contains('R', StringComparison.Ordinal) || !story.Values.IsThere(o) || NotStates.Contains(o.Is.Key) || double.IsNaN(story.Device.ValueOf(o))) continue;
                compared++;
                Assert.True(Math.Abs(story.Device.ValueOf(o) - story.Received(o.Path)) < 1e-6, $"seed {seed}: {o.Path} is {story.Device.ValueOf(o)}, and a receiver knows {story.Received(o.Path)}");
            }
            for (int c = 0; c < story.Values.Form.Channels.Count; c++) compared += Compare(story, c, found, seed);
        }
        // An interface, and buttons that offer no state, have none.
        if (id is not ("ip-interface-1" or "button-4")) Assert.True(compared > 10, $"{compared}");
    }

    /// <summary>What a receiver knows of a channel against what the channel really drives or senses; answers in how many objects.</summary>
    private static int Compare(Story story, int channel, Dictionary<string, double> sensed, int seed)
    {
        int compared = 0;
        ChannelForm form = story.Values.Form.Channels[channel];
        double Now(string port) => story.Device.LoadOf(channel, form.Behaviour.Drives.Single(d => d.Key == port)).Now(story.Now);
        void Same(string port, string o, Func<double, double>? to = null)
        {
            if (story.Values.Form.FindObject($"{form.Key}.{o}") is not { } found || !story.Values.IsThere(found) || double.IsNaN(Now(port))) return;
            compared++;
            double truth = (to ?? (x => x))(Now(port)), known = story.Received(found.Path);
            Assert.True(Math.Abs(truth - known) < 0.51, $"seed {seed}: {found.Path} is known as {known} and really {truth}");
        }
        string Setting(string key) => story.Values.Form.ParameterAt(channel, key) is >= 0 and var at ? story.Values.ValueOf(at) : "";
        if (!story.Values.IsThere(form) || Setting("function") == "disabled") return 0;
        switch (form.Behaviour.Key)
        {
            case "switching":
                bool isInverse = Setting("function") == "valve" ? Setting("valve") == "open" : Setting("contact") == "closed";
                Same("output", "state", x => x > 0.5 != isInverse ? 1 : 0);
                break;
            case "dimming":
                Same("level", "state", x => x > 0 ? 1 : 0);
                Same("level", "valueState");
                break;
            case "blind":
                Same("height", "positionState");
                Same("motor", "moves", Math.Abs);
                Same("height", "upState", x => x == 0 ? 1 : 0);
                Same("height", "downState", x => x == 100 ? 1 : 0);
                break;
            case "button" or "binaryInput" when Setting("function") == "state":
                compared++;
                Assert.Equal(sensed["contact"] > 0.5 != (Setting("contact") == "opens") ? 1 : 0, story.Received($"{form.Key}.switch"));
                break;
            case "weather" when Setting("function") == "threshold":
                // Both ends of what can be sensed are far beyond any limit and its hysteresis.
                string of = Setting("of"), port = of switch { "frost" or "warm" => "temperature", "dusk" => "south", _ => of };
                bool isHigh = sensed[port] > form.Behaviour.Senses.Single(s => s.Key == port).Low;
                compared++;
                Assert.Equal(isHigh == of is not ("frost" or "dusk") ? 1 : 0, story.Received($"{form.Key}.{(of is "wind" or "rain" or "frost" ? "alarm" : "passed")}"));
                break;
            case "fanCoil":
                Same("fanStage", "stageState");
                Same("heatValve", "heat");
                Same("coolValve", "cool");
                break;
        }
        return compared;
    }

    [Fact]
    public void Nothing_runs_for_ever_that_was_to_run_for_a_time()
    {
        int wasOn = 0;
        for (int seed = 0; seed < 300; seed++)
        {
            var chance = new Random(seed);
            string Time() => $"{chance.Next(1, 60)}";
            string function = new[] { "staircase", "pulse", "delay" }[seed % 3], back = new[] { "before", "keep" }[chance.Next(2)], loss = new[] { "keep", "on", "off" }[chance.Next(function == "delay" ? 1 : 3)];
            var story = new Story(Switches, new Dictionary<string, string>
            {
                ["output1.function"] = function,
                ["output1.staircase"] = Time(),
                ["output1.warning"] = Time(),
                ["output1.pulse"] = Time(),
                ["output1.runOn"] = Time(),
                ["output1.offDelay"] = Time(),
                ["output1.onDelay"] = "0",
                ["output1.busLoss"] = loss,
                ["output1.busReturn"] = back,
                ["output1.leastOn"] = $"{chance.Next(10)}",
            });
            var dimmer = new Story(Dimmers, new Dictionary<string, string> { ["output1.function"] = "staircase", ["output1.staircase"] = Time(), ["output1.warning"] = Time(), ["output1.busReturn"] = back, ["output1.busLoss"] = loss });
            var timer = new Story(Switches, new Dictionary<string, string> { ["function1.function"] = "timer", ["function1.timer"] = chance.Next(2) == 0 ? "pulse" : "off", ["function1.time"] = Time() });
            long at = 1000;
            story.Tell(at, "output1.switch", 1);
            dimmer.Tell(at, "output1.switch", 1);
            timer.Tell(at, "function1.a", 1);
            at += chance.Next(1, 900);
            if (function == "delay") story.Tell(at, "output1.switch", 0);
            timer.Tell(at, "function1.a", 0);
            for (int i = 0; i < 4; i++)
            {
                at += chance.Next(1, 20_000);
                long length = chance.Next(1, 20_000);
                Supply supply = chance.Next(3) == 0 ? Supply.Mains : Supply.Bus;
                foreach (Story one in new[] { story, dimmer, timer }) one.Lose(at, supply, length);
                at += length;
                if (story.Driven(1, "output")[^1].Value > 0) wasOn++;
            }
            foreach (Story one in new[] { story, dimmer, timer }) one.Until(at + 400_000);
            Assert.True(story.Driven(1, "output")[^1].Value == 0, $"seed {seed}: the {function} is still on");
            Assert.True(dimmer.Driven(1, "level")[^1].Value == 0, $"seed {seed}: the dimmer is still on");
            Assert.True(timer.Received("function1.out") is 0 or double.NaN, $"seed {seed}: the timer is still on");
        }
        Assert.True(wasOn > 100, $"{wasOn}");
    }

    [Fact]
    public void Without_mains_no_lamp_is_lit_whatever_is_told()
    {
        for (int seed = 0; seed < 100; seed++)
        {
            var chance = new Random(seed);
            var story = new Story(Dimmers, Settings(Dimmers, chance, ("output1.function", "dimming")));
            foreach (var (at, act) in Bursts(story.Values, chance, 60))
            {
                story.Do(at, act);
                if (story.Device.HasMains) continue;
                for (int c = 1; c <= 4; c++)
                {
                    if (story.Driven(c, "level") is { Count: > 0 } level) Assert.True(level[^1].Value == 0, $"seed {seed}: output {c} gets {level[^1].Value} % without mains");
                }
            }
        }
    }

    [Fact]
    public void What_is_forced_or_locked_stays_so_over_any_loss_and_return()
    {
        for (int seed = 0; seed < 300; seed++)
        {
            var chance = new Random(seed);
            bool isForced = seed % 2 == 0;
            string locked = chance.Next(2) == 0 ? "on" : "off";
            double told = isForced ? 2 + chance.Next(2) : 1;
            double expected = isForced ? told - 2 : locked == "on" ? 1 : 0;
            var story = new Story(Switches, new Dictionary<string, string>
            {
                ["output1.function"] = new[] { "switching", "staircase", "pulse", "delay" }[chance.Next(4)],
                ["output1.staircase"] = "5",
                ["output1.warning"] = "3",
                ["output1.pulse"] = "5",
                ["output1.offDelay"] = "5",
                ["output1.lock"] = "yes",
                ["output1.locked"] = locked,
                ["output1.forcing"] = "yes",
                ["output1.busLoss"] = new[] { "keep", "on", "off" }[chance.Next(3)],
                ["output1.busReturn"] = new[] { "before", "keep", "on", "off" }[chance.Next(4)],
            });
            long at = 1000;
            story.Tell(at, "output1.switch", chance.Next(2));
            story.Tell(at += chance.Next(1, 4000), isForced ? "output1.force" : "output1.lockIt", told);
            for (int i = 0; i < 4; i++)
            {
                Assert.Equal(expected, story.Driven(1, "output")[^1].Value);
                story.Tell(at += chance.Next(1, 9000), "output1.switch", chance.Next(2));
                long length = chance.Next(1, 9000);
                story.Lose(at += chance.Next(1, 9000), chance.Next(3) == 0 ? Supply.Mains : Supply.Bus, length);
                at += length;
            }
            story.Until(at + 60_000);
            // Not once was it otherwise, the warning of a staircase included.
            int from = story.Driven(1, "output").FindLastIndex(d => d.Value != expected);
            Assert.True(from < 0 || story.Driven(1, "output")[from].At <= 5000, $"seed {seed}: it changed at {(from < 0 ? 0 : story.Driven(1, "output")[from].At)}");
        }
    }
}
