using System.Collections.Concurrent;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Status;

namespace LoftyWren.Core.Tests.Sequences;

/// <summary>
/// What holds for every kind of block, of cases that are made from its definition: what its help says of status, the same
/// over a restart, at any scan period and when a setting changes, and that a scan allocates nothing. Cases come from fixed seeds.
/// </summary>
public class BlockLawTests
{
    private const int Seeds = 6;
    private static readonly string[] Units = ["°C", "%", "", "%RH", "kW", "ppm", "s", Bench.Named];

    public static TheoryData<BlockKind> Kinds() => [.. BlockType.All.Where(t => !t.IsShell).Select(t => t.Kind)];

    /// <summary>A block of a kind with settings by chance, and what may be connected to it.</summary>
    private sealed class Case
    {
        public Case(BlockKind kind, int seed, double shortest = 5)
        {
            Random = new Random(seed);
            Type = BlockType.Of(kind);
            Binary = Random.Next(2) == 0;
            do
            {
                Block = new Block
                {
                    Id = "b",
                    Kind = kind,
                    Numbers = Type.Numbers.ToDictionary(n => n.Name, n => Chance(n, shortest)),
                    Choices = Type.Choices.ToDictionary(c => c.Name, c => c.Options[Random.Next(c.Options.Count)].Value),
                    Modes = kind == BlockKind.Modes ? Table() : null,
                    Texts = Type.Texts.Count == 0 ? null : Type.Texts.ToDictionary(t => t.Name, t => t.IsFree ? "a, b, c, d, e, f, g, h, otherwise" : "two"),
                };
            }
            while (Type.Refuses?.Invoke(Type, Block) is not null);
            var units = UnitsOf.GetOrAdd((kind, Binary), _ => Fitting());
            Pins = [.. Type.Inputs.Where(p => p.Required || Random.Next(2) == 0).Select(p => (p.Name, units[p.Name]))];
        }

        /// <summary>Modes with whole times, so that scans of any period see them end at the same moment.</summary>
        private ModeTable Table() => new()
        {
            Modes = [.. Enumerable.Range(1, Random.Next(2, 7)).Select(slot => new Mode
            {
                Slot = slot, Name = $"M{slot}", EnterAfter = Random.Next(3) * 5, LeaveAfter = Random.Next(3) * 5, Least = Random.Next(3) * 10, Most = Random.Next(3) == 0 ? 40 : 0,
                AtOnce = Random.Next(3) == 0, Unread = (UnreadCondition)Random.Next(3), From = Random.Next(4) == 0 ? [Random.Next(1, 4)] : [],
            })],
        };

        private static readonly ConcurrentDictionary<(BlockKind, bool), Dictionary<string, string>> UnitsOf = new();

        /// <summary>The units that a kind takes at all its inputs: one for all if that does, else one pin after the other gets the one that leaves least to complain of.</summary>
        private Dictionary<string, string> Fitting()
        {
            var pins = Units.Select(u => Type.Inputs.Select(p => (p.Name, Unit(p.Name, u))).ToArray()).MinBy(p => Bench.Problems(Block, p, Binary).Count)!;
            for (int i = 0; i < pins.Length * 2; i++)
            {
                int at = i % pins.Length;
                if (Bench.Problems(Block, pins, Binary).Count > 0) pins[at].Item2 = Units.MinBy(u => Bench.Problems(Block, [.. pins.Select((p, j) => j == at ? (p.Name, Unit(p.Name, u)) : p)], Binary).Count)!;
            }
            Assert.Empty(Bench.Problems(Block, pins, Binary));
            return pins.ToDictionary(p => p.Name, p => p.Item2);
        }

        private string Unit(string pin, string unit) => Type.Inputs.First(p => p.Name == pin).Kind == PinKind.Binary ? "" : unit;

        public Random Random { get; }

        public BlockType Type { get; }

        public Block Block { get; set; }

        public bool Binary { get; }

        public (string Pin, string Unit)[] Pins { get; }

        public Bench Mounted() => new(Block, Pins, Binary);

        public bool IsBinary(int pin) => Type.Inputs.First(p => p.Name == Pins[pin].Pin).Kind is var kind && (kind == PinKind.Binary || (kind == PinKind.Any && Binary));

        /// <summary>Usable inputs by chance, then what the controller tells of itself.</summary>
        public PinValue[] Inputs() => [.. Pins.Select((p, i) => new PinValue(IsBinary(i) ? Random.Next(2) : p.Unit switch
        {
            // A loop is tried near its setpoint: far from it a derivative is many times the range of the output.
            _ when Type.Kind == BlockKind.Pid => Math.Round(19 + (Random.NextDouble() * 3), 2),
            "°C" => Math.Round((Random.NextDouble() * 40) - 5, 2),
            "%RH" => Math.Round(10 + (Random.NextDouble() * 85), 1),
            "%" => Math.Round((Random.NextDouble() * 220) - 110, 1),
            "ppm" => 400 + Random.Next(1500),
            "s" => Random.Next(7200),
            Sequences.Bench.Named => 1 + Random.Next(3),
            _ => Random.Next(1, 9),
        }, StatusFlags.None)), .. Enum.GetValues<ControllerFact>().Select((_, i) => new PinValue(i + 1, StatusFlags.None))];

        private double Chance(NumberSetting setting, double shortest)
        {
            if (setting.Unit is "" or "difference" or "measured" or "out" or "%" or "ppm" && Random.Next(2) == 0) return setting.Default;
            double low = Math.Max(setting.Low, setting.Unit == "s" ? shortest : setting.Default / 3), high = Math.Min(setting.High, setting.Unit == "s" ? 200 : Math.Max(setting.Default * 3, low));
            double value = low + (Random.NextDouble() * Math.Max(0, high - low));
            return setting.Unit is "" or "s" && setting.Default == Math.Floor(setting.Default) ? Math.Max(Math.Ceiling(setting.Low), Math.Floor(value)) : value;
        }

        public bool IsRequired(int pin) => Type.Inputs.First(p => p.Name == Pins[pin].Pin).Required;
    }

    /// <summary>What the help of a kind says of status is one of a few rules, or a rule of its own that has a test of its own.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void The_status_is_as_the_help_says(BlockKind kind)
    {
        string help = BlockHelp.Of(kind).Status;
        for (int seed = 0; seed < Seeds; seed++)
        {
            var made = new Case(kind, seed);
            Bench bench = made.Mounted();
            for (int scan = 0; scan < 40; scan++)
            {
                PinValue[] inputs = made.Inputs();
                int at = made.Pins.Length == 0 ? -1 : made.Random.Next(made.Pins.Length);
                bool isHurt = at >= 0 && made.Random.Next(3) == 0, isFault = made.Random.Next(2) == 0;
                if (isHurt) inputs[at] = isFault ? PinValue.Fault : PinValue.Released;
                bool isStale = !isHurt && at >= 0 && made.Random.Next(3) == 0;
                if (isStale) inputs[at] = inputs[at] with { Status = StatusFlags.Stale };
                bench.ScanAll(scan, inputs);
                var (value, status) = bench.Read("out");
                Assert.Equal(double.IsFinite(value), (status & (StatusFlags.Fault | StatusFlags.Released)) == 0);
                Assert.Equal(StatusFlags.None, status & StatusFlags.InAlarm);
                bool required = at >= 0 && made.IsRequired(at);
                if (help.StartsWith("The common rule", StringComparison.Ordinal))
                {
                    if (isHurt && required) Assert.Equal(isFault ? StatusFlags.Fault : StatusFlags.Released, status);
                    if (isStale && required && double.IsFinite(value)) Assert.Equal(StatusFlags.Stale, status);
                }
                else if (help.StartsWith("A fault makes a fault. Released inputs are left out", StringComparison.Ordinal))
                {
                    if (isHurt) Assert.Equal(isFault ? StatusFlags.Fault : made.Pins.Length == 1 ? StatusFlags.Released : StatusFlags.None, status);
                    if (isStale) Assert.Equal(StatusFlags.Stale, status);
                }
                else if (help.StartsWith("An input in fault or released counts as", StringComparison.Ordinal) || help.StartsWith("Always", StringComparison.Ordinal))
                {
                    foreach (Pin pin in made.Type.Outputs) Assert.True(double.IsFinite(bench[pin.Name]), pin.Name);
                }
                else Assert.Contains(kind, WithRulesOfTheirOwn);
                if (made.Type.Speaks?.Invoke(made.Type, made.Block) == BlockSpeech.Always) Assert.True(double.IsFinite(value));
            }
        }
    }

    private static readonly BlockKind[] WithRulesOfTheirOwn =
    [
        BlockKind.And, BlockKind.Or, BlockKind.AtLeast, BlockKind.Sel, BlockKind.Mux, BlockKind.FirstGood, BlockKind.HoldGood, BlockKind.Sample, BlockKind.StateOf, BlockKind.ModeValue,
        BlockKind.Total, BlockKind.LoadShed, BlockKind.Frost, BlockKind.Tp,
    ];

    /// <summary>A controller that starts anew with what it remembers goes on as if it had not, whatever its inputs were.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void A_restart_changes_nothing(BlockKind kind)
    {
        for (int seed = 0; seed < Seeds; seed++)
        {
            var made = new Case(kind, seed);
            Bench straight = made.Mounted(), broken = made.Mounted();
            double now = 1000;
            for (int scan = 0; scan < 120; scan++)
            {
                PinValue[] inputs = made.Inputs();
                if (made.Pins.Length > 0 && made.Random.Next(6) == 0) inputs[made.Random.Next(made.Pins.Length)] = made.Random.Next(2) == 0 ? PinValue.Fault : PinValue.Released;
                straight.ScanAll(now, inputs);
                broken.ScanAll(now, inputs);
                foreach (Pin pin in made.Type.Outputs) Assert.Equal(straight.Read(pin.Name), broken.Read(pin.Name));
                if (made.Random.Next(5) == 0) broken.Recall(broken.Remember());
                now += made.Random.Next(1, 30);
            }
        }
    }

    /// <summary>
    /// Scanned ten times as often, a block comes to the same within five of the longer scans, whatever stands at its inputs for
    /// longer than that; numbers to 2 % of what they range over. A drive says in its help how far off it may be.
    /// </summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void The_scan_period_does_not_matter(BlockKind kind)
    {
        for (int seed = 0; seed < Seeds / 2; seed++)
        {
            var made = new Case(kind, seed, shortest: 12);
            // A step has a slope that is the steeper the shorter a scan is.
            if (kind == BlockKind.Pid) made.Block = made.Block with { Numbers = new Dictionary<string, double>(made.Block.Numbers) { ["td"] = 0 } };
            Bench coarse = made.Mounted(), fine = made.Mounted();
            const int Stretch = 60, Stretches = 8, Ratio = 10, Around = 5;
            string[] pins = [.. made.Type.Outputs.Select(p => p.Name)];
            var seen = pins.ToDictionary(p => p, _ => new List<double>());
            var given = pins.ToDictionary(p => p, _ => new List<double>());
            for (int stretch = 0; stretch < Stretches; stretch++)
            {
                PinValue[] inputs = made.Inputs();
                for (int second = 0; second < Stretch; second++)
                {
                    double now = (stretch * Stretch) + second;
                    coarse.ScanAll(now, inputs);
                    foreach (string pin in pins) seen[pin].Add(coarse[pin]);
                    for (int part = 0; part < Ratio; part++)
                    {
                        fine.ScanAll(now + (part / (double)Ratio), inputs);
                        foreach (string pin in pins) given[pin].Add(fine[pin]);
                    }
                }
            }
            foreach (string pin in pins)
            {
                if (kind == BlockKind.ThreePointDrive && pin != "position") continue;
                // Which machine it is hangs on hours that are equal but for a scan; how many are on does not.
                if (kind == BlockKind.Rotation && pin != "out") continue;
                double range = seen[pin].Where(double.IsFinite).DefaultIfEmpty(0).Max() - seen[pin].Where(double.IsFinite).DefaultIfEmpty(0).Min();
                double off = kind == BlockKind.ThreePointDrive ? (200 / made.Block.Numbers["travel"]) + made.Block.Numbers["zone"] : ((kind == BlockKind.Pid ? 0.05 : 0.02) * range) + (kind == BlockKind.RunHours ? 1 / 3600.0 : 0) + 1e-9;
                for (int i = 0; i < given[pin].Count; i++)
                {
                    double value = given[pin][i];
                    var near = seen[pin].Skip((i / Ratio) - Around).Take((2 * Around) + 1 + Math.Min(0, (i / Ratio) - Around)).ToList();
                    bool isNear = double.IsNaN(value) ? near.Exists(double.IsNaN) : near.Exists(n => !double.IsNaN(n) && value <= n + off) && near.Exists(n => !double.IsNaN(n) && value >= n - off);
                    Assert.True(isNear, $"{kind} {pin}, seed {seed}: {value} at {i / (double)Ratio} s, where scans of 1 s gave {string.Join(", ", near)}; {string.Join(", ", made.Block.Numbers)} {string.Join(", ", made.Block.Choices)}");
                }
            }
        }
    }

    /// <summary>Where the help promises no jump, the output goes on from where it was when a setting changes while the program runs.</summary>
    [Theory]
    [MemberData(nameof(Kinds))]
    public void Nothing_jumps_where_the_help_says_so(BlockKind kind)
    {
        BlockHelp help = BlockHelp.Of(kind);
        BlockType type = BlockType.Of(kind);
        Assert.True(!type.HasMemory || help.Start.Length > 0, "What it starts with is not said.");
        Assert.True(type.Numbers.Count + type.Choices.Count + type.Tables.Count == 0 || help.Change.Length > 0, "What a change of its settings does is not said.");
        if (!help.Change.StartsWith("No jump", StringComparison.Ordinal) || type.Outputs[0].Kind == PinKind.Binary) return;
        for (int seed = 0; seed < Seeds; seed++)
        {
            var made = new Case(kind, seed);
            Bench one = made.Mounted();
            double now = 0;
            PinValue[] inputs = made.Inputs();
            for (int scan = 0; scan < 200; scan++)
            {
                if (scan % 25 == 0) inputs = made.Inputs();
                one.ScanAll(now += 1, inputs);
            }
            double before = one["out"], scale = Math.Max(1, Math.Abs(before));
            foreach (NumberSetting setting in type.Numbers.Where(n => n.Name is not ("low" or "high" or "per")))
            {
                var changed = new Case(kind, seed) { Block = made.Block with { Numbers = new Dictionary<string, double>(made.Block.Numbers) { [setting.Name] = made.Block.Numbers[setting.Name] * 1.7 } } };
                if (made.Block.Numbers[setting.Name] * 1.7 > setting.High) continue;
                Bench other = new(changed.Block, made.Pins, made.Binary);
                other.Recall(one.Remember());
                other.ScanAll(now + 0.001, inputs);
                Assert.True(double.IsNaN(before) == double.IsNaN(other["out"]) && !(Math.Abs(other["out"] - before) > 0.01 * scale), $"{kind}, seed {seed}: {setting.Name} moves it from {before} to {other["out"]}");
            }
        }
    }

    [Theory]
    [MemberData(nameof(Kinds))]
    public void A_scan_allocates_nothing(BlockKind kind)
    {
        var made = new Case(kind, 3);
        Bench bench = made.Mounted();
        PinValue[][] inputs = [.. Enumerable.Range(0, 50).Select(_ => made.Inputs())];
        for (int scan = 0; scan < 200; scan++) bench.ScanAll(scan, inputs[scan % 50]);
        long before = GC.GetAllocatedBytesForCurrentThread();
        for (int scan = 200; scan < 1200; scan++) bench.ScanAll(scan, inputs[scan % 50]);
        Assert.Equal(0, GC.GetAllocatedBytesForCurrentThread() - before);
    }

    [Fact]
    public void Every_kind_is_told_of_in_full_and_is_in_a_family_of_the_menu()
    {
        Assert.Equal(Enum.GetValues<BlockKind>().Length, BlockType.All.Count);
        Assert.InRange(BlockType.All.Count(t => !t.IsRetired), 70, 200);
        foreach (BlockType type in BlockType.All)
        {
            BlockHelp help = BlockHelp.Of(type.Kind);
            Assert.All((string[])[help.Summary, help.Formula, help.Units, help.Status, help.Edges], text => Assert.True(text.Length > 3, $"{type.Kind}: {text}"));
            if (!type.IsShell) Assert.Equal("out", type.Outputs[0].Name);
            Assert.True(type.Numbers.All(n => n.Low <= n.Default && n.Default <= n.High), $"{type.Kind}");
        }
        Assert.Equal(BlockType.All.Count, BlockType.All.Select(t => t.Name).Distinct().Count());
    }
}
