using System.Globalization;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>
/// Stories for tests: devices that ship with some parameters set, events as lines such as <c>5 tell output1.switch 1</c>,
/// <c>0 sense movement 1 for 130</c>, <c>20 lose bus for 12</c>, and lanes as the moments at which they changed.
/// </summary>
internal static class Told
{
    public static StagedDevice Device(string description, string settings, string id = "d", params (string Object, string Groups)[] joins)
    {
        DeviceForm form = DescriptionShelf.Shipped.Single(d => d.Id == description).Form;
        var set = new Dictionary<string, string>();
        foreach (string one in settings.Split(';', StringSplitOptions.TrimEntries | StringSplitOptions.RemoveEmptyEntries))
        {
            string[] sides = one.Split('=', StringSplitOptions.TrimEntries);
            ParameterForm parameter = form.Find(sides[0]) ?? throw new ArgumentException($"no parameter {sides[0]}");
            var (value, refusal) = parameter.Is.Read(sides[1]);
            set[sides[0]] = value ?? throw new ArgumentException(refusal);
        }
        DeviceValues values = DeviceValues.Of(form, set);
        foreach (string path in set.Keys) Assert.True(values.IsThere(form.Find(path)!), $"{path} is not there: {values.WhyHidden(path, form.Find(path)!.When)?.Sentence}");
        return new StagedDevice(new RecordId(id), id, values, [.. joins.Select(j => (j.Object, (IReadOnlyList<GroupNumber>)[.. j.Groups.Split(' ').Select(g => GroupNumber.Read(g)!.Value)]))]);
    }

    public static StoryRun Story(StagedDevice device, double seconds, string events) => Story([device], seconds, events);

    public static StoryRun Story(IReadOnlyList<StagedDevice> devices, double seconds, string events) => StoryStage.Tell(devices, [.. events.Split('\n', ';').Select(e => e.Trim()).Where(e => e.Length > 0).Select(Event)], [], seconds);

    /// <summary>The moments (s) at which a lane took another value: <c>0=0 5=1 185=0</c>; a way is written 0=0→100@5.</summary>
    public static string Steps(this StoryRun run, string what, string? device = null)
    {
        StoryLane lane = run.Lanes.Single(l => l.What == what && (device is null || l.Device == device));
        var steps = new List<string>();
        double? last = double.NaN;
        foreach (StoryStretch stretch in lane.Stretches)
        {
            if (stretch.Until > stretch.At) steps.Add(FormattableString.Invariant($"{stretch.At:0.###}={stretch.Value:0.##}→{stretch.To:0.##}@{stretch.Until:0.###}"));
            else if (stretch.To != last) steps.Add(FormattableString.Invariant($"{stretch.At:0.###}={stretch.To:0.##}"));
            last = stretch.To;
        }
        return string.Join(' ', steps);
    }

    /// <summary>The values that an object was sent with, and when.</summary>
    public static string Sent(this StoryRun run, string what, string? device = null) =>
        string.Join(' ', run.Lanes.SingleOrDefault(l => l.What == what && (device is null || l.Device == device))?.Stretches.Where(s => s.Sends).Select(s => FormattableString.Invariant($"{s.At:0.###}={s.To:0.##}")) ?? []);

    /// <summary>Why a lane is as it is at a moment: the fact and the parameter.</summary>
    public static (string Fact, string? Parameter) Why(this StoryRun run, string what, double at)
    {
        StoryStretch stretch = run.Lanes.Single(l => l.What == what).Stretches.Last(s => s.At <= at + 1e-9);
        return (stretch.Fact, stretch.Parameter);
    }

    public static double At(this StoryRun run, string what, double at) => run.Lanes.Single(l => l.What == what).ValueAt(at) ?? double.NaN;

    private static int _number;

    private static StoryEvent Event(string line)
    {
        string[] w = line.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        double Number(string text) => double.Parse(text, CultureInfo.InvariantCulture);
        StoryDeed deed = Enum.Parse<StoryDeed>(w[1], true);
        int next = deed == StoryDeed.Lose ? 3 : 4;
        RecordId? device = w[2].Contains('@', StringComparison.Ordinal) ? new RecordId(w[2][(w[2].IndexOf('@', StringComparison.Ordinal) + 1)..]) : null;
        return new StoryEvent($"e{_number++}", Number(w[0]), deed, w[2].Split('@')[0]) { Value = deed == StoryDeed.Lose ? 0 : Number(w[3]), For = w.Length > next && w[next] == "for" ? Number(w[next + 1]) : null, DeviceId = device };
    }
}
