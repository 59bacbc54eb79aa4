using System.Text.Json;
using LoftyWren.Core.Bus.Behaviours;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Laws over all behaviours, on devices that ship with settings and events by chance.</summary>
public sealed class BehaviourLawTests
{
    public static TheoryData<string> Devices => [.. DescriptionShelf.Shipped.Where(d => d.Channels.Count > 0).Select(d => d.Id)];

    /// <summary>What a device says and drives, as lines, each with its moment.</summary>
    private sealed class Log : IDeviceTeller
    {
        public List<string> Lines { get; } = [];

        public long Now { get; set; }

        public void Said(DeviceRunner device, ObjectForm what, double value, bool sends, ParameterDescription? by, string fact) => Lines.Add(FormattableString.Invariant($"{Now} {what.Path} {value:R} {sends}"));

        public void Heard(DeviceRunner device, ObjectForm what, double value) => Lines.Add(FormattableString.Invariant($"{Now} {what.Path} takes {value:R}"));

        public void Drove(DeviceRunner device, int channel, BehaviourPort what, Course course, ParameterDescription? by, string fact) => Lines.Add(FormattableString.Invariant($"{Now} {channel}.{what.Key} {course.From} {course.At:R} {course.Until} {course.To:R}"));
    }

    internal static DeviceValues Random(DeviceForm form, Random chance)
    {
        var set = new Dictionary<string, string>();
        foreach (ParameterForm p in form.Parameters)
        {
            // Mostly something is in use, or there would be nothing to see.
            if (p.Is.Key == BehaviourKind.FunctionKey ? chance.Next(8) == 0 : chance.Next(3) > 0) continue;
            set[p.Path] = p.Is.Sort switch
            {
                ParameterSort.Choice => p.Is.Choices![chance.Next(p.Is.Choices.Count)].Key,
                ParameterSort.YesNo => chance.Next(2) == 0 ? "yes" : "no",
                ParameterSort.Time => Parameters.Write(Math.Clamp(chance.Next(40) / 2.0, p.Is.Least!.Value, p.Is.Most!.Value)),
                ParameterSort.Text => "t",
                _ => Parameters.Write(p.Is.Step is { } step ? p.Is.Least!.Value + (step * chance.Next((int)Math.Min(60, (p.Is.Most!.Value - p.Is.Least.Value) / step) + 1)) : p.Is.Least!.Value + (chance.NextDouble() * Math.Min(200, p.Is.Most!.Value - p.Is.Least.Value))),
            };
        }
        return DeviceValues.Of(form, set);
    }

    internal static List<(long At, Action<DeviceRunner, long> Do)> Events(DeviceValues values, Random chance, int count, bool supplies = true)
    {
        var events = new List<(long At, Action<DeviceRunner, long> Do)>();
        ObjectForm[] heard = [.. values.Form.Objects.Where(o => o.Hears && values.IsThere(o))];
        var sensed = values.Form.Channels.SelectMany((c, i) => c.Behaviour.Senses.Select(s => (Channel: s.Key is "contact" or "signal" ? i : -1, Port: s))).Distinct().ToArray();
        for (int i = 0; i < count; i++)
        {
            long at = chance.NextInt64(0, 600_000);
            int what = chance.Next(supplies ? 0 : 2, 20);
            if (what < 2) events.Add((at, (d, now) => Toggle(d, now, what == 0 ? Supply.Bus : Supply.Mains)));
            else if (what < 8 && sensed.Length > 0)
            {
                var (channel, port) = sensed[chance.Next(sensed.Length)];
                double value = port.Unit.Length == 0 ? chance.Next(2) : port.Low + (chance.NextDouble() * (port.High - port.Low));
                events.Add((at, (d, now) => d.Sense(now, channel, port.Key, value)));
            }
            else if (heard.Length > 0)
            {
                ObjectForm o = heard[chance.Next(heard.Length)];
                double high = o.Type.IsSingle ? o.Type.Fields[0].High : (1 << o.Type.Bits) - 1, low = o.Type.IsSingle ? o.Type.Fields[0].Low : 0;
                double value = o.Type.Main == 9 ? chance.Next(150, 260) / 10.0 : Math.Round(low + (chance.NextDouble() * (high - low)));
                events.Add((at, (d, now) => d.Write(now, o, value)));
            }
        }
        return [.. events.OrderBy(e => e.At)];

        static void Toggle(DeviceRunner d, long now, Supply supply)
        {
            if (supply == Supply.Bus ? d.HasBus : d.HasMains) d.Lose(now, supply);
            else d.Begin(now, supply == Supply.Bus ? Wake.Bus : Wake.Mains);
        }
    }

    /// <summary>Lives the events; at some of them the device is kept, thrown away and taken up again, and it may be run more often than it is due.</summary>
    private static List<string> Live(DeviceValues values, List<(long At, Action<DeviceRunner, long> Do)> events, Func<int, bool> restarts, bool runsOften)
    {
        var log = new Log();
        var device = new DeviceRunner(values, [], log);
        device.Begin(0, Wake.New);
        long now = 0;
        for (int i = 0; i < events.Count; i++)
        {
            long until = events[i].At;
            while (device.NextDue <= until)
            {
                long due = Math.Max(now, device.NextDue);
                Assert.True(due > now || device.NextDue <= now);
                if (runsOften && due > now + 1)
                {
                    log.Now = now = now + ((due - now) / 2);
                    device.Run(now);
                }
                log.Now = now = due;
                int before = log.Lines.Count;
                device.Run(now);
                Assert.True(device.NextDue > now || log.Lines.Count - before < 500, $"{values.Form.Description.Id} is due again and again at {now}");
                Take(device);
            }
            log.Now = now = until;
            if (restarts(i))
            {
                string kept = JsonSerializer.Serialize(device.Remember(), Kept);
                device = new DeviceRunner(values, [], log);
                device.Recall(JsonSerializer.Deserialize<DeviceMemory>(kept, Kept)!);
            }
            events[i].Do(device, now);
            Take(device);
        }
        return log.Lines;

        static void Take(DeviceRunner device)
        {
            while (device.TryTake(out _))
            {
            }
        }
    }

    private static readonly JsonSerializerOptions Kept = RecordJson.Configure(new JsonSerializerOptions());

    [Theory]
    [MemberData(nameof(Devices))]
    public void The_same_comes_after_a_restart_at_any_moment_and_however_often_it_is_run(string id)
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == id).Form;
        int lines = 0;
        for (int seed = 0; seed < 12; seed++)
        {
            var chance = new Random(seed);
            DeviceValues values = Random(form, chance);
            var events = Events(values, chance, 120);
            List<string> once = Live(values, events, _ => false, false);
            lines += once.Count;
            Assert.Equal(once, Live(values, events, _ => false, false));
            Assert.Equal(once, Live(values, events, i => i % 7 == seed % 7, false));
            Assert.Equal(once, Live(values, events, _ => false, true));
        }
        // Something was there to be the same; the interface to IP only gives signs of life.
        Assert.True(lines > (id == "ip-interface-1" ? 5 : 200), $"{lines}");
    }

    [Theory]
    [MemberData(nameof(Devices))]
    public void At_work_nothing_is_allocated(string id)
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == id).Form;
        var chance = new Random(5);
        DeviceValues values = Random(form, chance);
        var events = Events(values, chance, 400, supplies: false);
        var device = new DeviceRunner(values, []);
        device.Begin(0, Wake.New);
        // Once to have everything compiled and every queue grown.
        long now = Work(device, events, 0);
        long before = GC.GetAllocatedBytesForCurrentThread();
        Work(device, events, now);
        long bytes = GC.GetAllocatedBytesForCurrentThread() - before;
        Assert.Equal(0, bytes);
    }

    private static long Work(DeviceRunner device, List<(long At, Action<DeviceRunner, long> Do)> events, long from)
    {
        long now = from;
        for (int i = 0; i < events.Count; i++)
        {
            long until = from + events[i].At;
            for (int steps = 0; device.NextDue <= until && steps < 100_000; steps++)
            {
                now = Math.Max(now, device.NextDue);
                device.Run(now);
                while (device.TryTake(out _))
                {
                }
            }
            now = until;
            events[i].Do(device, now);
        }
        return now;
    }

    /// <summary>Least times hold at an output whatever is told, locked, forced or recalled: two changes never come closer.</summary>
    [Fact]
    public void Least_times_hold_whatever_happens()
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == "switch-4").Form;
        int changes = 0;
        for (int seed = 0; seed < 40; seed++)
        {
            var chance = new Random(seed);
            var set = new Dictionary<string, string> { ["output1.leastOn"] = "20", ["output1.leastOff"] = "30", ["output1.lock"] = "yes", ["output1.locked"] = chance.Next(2) == 0 ? "on" : "off", ["output1.forcing"] = "yes", ["output1.scenes"] = "yes", ["output1.scene1"] = "1", ["output1.scene1Is"] = "on" };
            set["output1.function"] = new[] { "switching", "delay", "staircase", "pulse", "valve" }[chance.Next(5)];
            DeviceValues values = DeviceValues.Of(form, set);
            var events = Events(values, chance, 200, supplies: false);
            var log = new Changes();
            var device = new DeviceRunner(values, [], log);
            device.Begin(0, Wake.New);
            long now = 0;
            foreach (var (at, act) in events)
            {
                while (device.NextDue <= at)
                {
                    log.Now = now = Math.Max(now, device.NextDue);
                    device.Run(now);
                }
                log.Now = now = at;
                act(device, now);
            }
            changes += log.Moments.Count;
            for (int i = 2; i < log.Moments.Count; i++)
            {
                var (from, on) = log.Moments[i - 1];
                Assert.True(log.Moments[i].At - from >= (on ? 20_000 : 30_000), $"seed {seed}: {from} {on} → {log.Moments[i].At}");
            }
        }
        Assert.True(changes > 300, $"{changes}");
    }

    private sealed class Changes : IDeviceTeller
    {
        public List<(long At, bool On)> Moments { get; } = [];

        public long Now { get; set; }

        public void Said(DeviceRunner device, ObjectForm what, double value, bool sends, ParameterDescription? by, string fact)
        {
            // The state tells what the output is, without the blink of a warning.
            if (what.Path == "output1.state" && (Moments.Count == 0 || Moments[^1].On != value > 0)) Moments.Add((Now, value > 0));
        }

        public void Heard(DeviceRunner device, ObjectForm what, double value)
        {
        }

        public void Drove(DeviceRunner device, int channel, BehaviourPort what, Course course, ParameterDescription? by, string fact)
        {
        }
    }
}
