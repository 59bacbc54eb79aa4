using LoftyWren.Storage.Projects;
using System.Diagnostics;
using System.IO.Compression;
using System.Runtime.CompilerServices;
using System.Text.Json;
using System.Text.Json.Nodes;
using LoftyWren.Benchmarks;
using LoftyWren.Core.Findings;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.PointLists;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Search;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Signals;
using LoftyWren.Core.Status;
using LoftyWren.Core.Tags;
using LoftyWren.Core.Trends;
using LoftyWren.Formats.Projects;
using LoftyWren.Formats.Sheets;
using LoftyWren.Storage;
using LoftyWren.Storage.History;
using LoftyWren.VirtualSite;

// Every figure is a ratio to something measured in the same run: subject and peer take turns, and the median counts.
string only = args.Length > 0 ? args[0] : "";
string root = AppContext.BaseDirectory;
while (!File.Exists(Path.Combine(root, "LoftyWren.slnx"))) root = Path.GetDirectoryName(root)!;
string temporary = Directory.CreateTempSubdirectory("lofty-wren-bench-").FullName;
Console.WriteLine($"{"figure",-52} {"measured",14} {"to reach",16}");

Figure("scan", () =>
{
    Project project = Generator.Make(12);
    var (plan, _) = Compiler.Compile(project.Find<Sequence>(new("q0"))!, project, id => id.Value[0] == 't' ? 0 : id.Value[0] == 's' ? 1 : 3, _ => 2);
    PlanState state = plan.NewState();
    double sink = 0, now = 0;
    // Both read what a controller has last heard; neither may count on knowing it when it is compiled.
    PinValue[] readings = [new(19.5, StatusFlags.None), new(20.5, StatusFlags.None), new(1, StatusFlags.None)];
    void Ours()
    {
        for (int i = 0; i < 100_000; i++)
        {
            plan.Scan(state, readings, now += 1);
            sink += state.Slots[plan.Claims[0].Slot].Value;
        }
    }
    var hand = new HandWritten();
    void Peer()
    {
        for (int i = 0; i < 100_000; i++) sink += hand.Scan(readings, now += 1);
    }
    double ratio = Ratio(Ours, Peer);
    long before = GC.GetAllocatedBytesForCurrentThread();
    Ours();
    long allocated = GC.GetAllocatedBytesForCurrentThread() - before;
    GC.KeepAlive(sink);
    Say("one scan against the same logic by hand", $"{ratio:0.0}×", "at most 1.5×");
    Say("  allocated in 100 000 scans", $"{allocated} B", "0 B");
});

Figure("bus", () =>
{
    foreach (var (name, channels, times) in BusDevices.Kinds()) Say($"{name}, {channels} channels, each told every minute", $"{times:N0}× real", "");
    var (parameters, ours, peer) = BusDevices.InForce();
    Say($"what is in force of {parameters:N0} parameters, against reading each", $"{Ratio(ours, peer):0.0}×", "under 5×");
    var (load, faster) = BusDevices.FullLine();
    Say($"a line with 64 devices at {load:0} % load", $"{faster:N0}× real", "over 100×");
    var (shown, page, written) = BusDevices.Page();
    Say($"a page of {shown:N0} parameters with what hides them, against serialising their declarations", $"{Ratio(page, written):0.0}×", "under 3×");
    Say("an edit of one of 2 000 bus devices under 20 000 addresses, with its findings, against one of 200", $"{Ratio(BusDevices.Edit(2000), BusDevices.Edit(200)):0.0}×", "under 3×");
    var (kept, keep, all) = BusDevices.Kept();
    Say($"what 2 000 hanging devices keep ({kept / 1e6:0.0} MB) gathered every 5 s, against serialising it", $"{Ratio(keep, all):0.00}×", "under 1×");
    var (devices, groups, tables, joins) = BusDevices.Tables();
    Say($"filter tables of {devices:N0} devices and {groups:N0} addresses, against reading all joins", $"{Ratio(tables, joins):0.0}×", "under 8×");
});

Figure("logic", () =>
{
    foreach (Logic.Family family in Logic.Families()) Say($"32 blocks by hand, {family.Name}", $"{Ratio(family.Ours, family.Peer):0.00}×", "under 2.5×");
    var (times, allocated) = Logic.Large();
    Say("a controller with 2 000 blocks", $"{times:N0}× real", "");
    Say("  allocated in a scan", $"{allocated:0} B", "0 B");
    Say("compiling 400 blocks against 100", $"{Ratio(() => Logic.Compiled(400), () => Logic.Compiled(100)):0.0}×", "under 6×");
    Project demo = Demo();
    Say("all sequences of the demo for a day", $"{Logic.Day(demo):N0}× real", "");
    Logic.Suite(demo);
    var (tests, seconds, lived) = Logic.Suite(demo);
    Say($"all {tests} tests of the demo, {lived / 3600:N0} h of stories", $"{lived / seconds:N0}× real", $"{seconds:0.0} s");
});

// Ten minutes and more: only where it is asked for by its name, with the number of days after it.
if (only == "year")
{
    int days = args.Length > 1 ? int.Parse(args[1], System.Globalization.CultureInfo.InvariantCulture) : 365;
    var watch = Stopwatch.StartNew();
    var (looks, failed) = new Year(Demo()).Live(days);
    Say($"{days} days of the demo, {looks:N0} looks: not as they must be", $"{failed.Count:N0}", "0");
    Say("  lived", $"{days * 86_400 / watch.Elapsed.TotalSeconds:N0}× real", "");
    foreach (string each in failed.Take(40)) Console.WriteLine($"  {each}");
}

Figure("site", () =>
{
    foreach (var (name, project, reach) in new[] { ("virtual site, demo size", Demo(), 50_000), ("virtual site, 5 000 points", Generator.Make(5000), 3000), ("virtual site, 20 000 points", Generator.Make(20_000), 500) })
    {
        Site site = Year.Sent(project, 1_776_150_000_000);
        // Long enough that the runtime has settled on its code for it, as it has in a server that runs for days.
        var watch = Stopwatch.StartNew();
        while (watch.Elapsed.TotalSeconds < 4) site.RunUntil(site.Now + 10_000);
        watch.Restart();
        long from = site.Now;
        while (watch.Elapsed.TotalSeconds < 2) site.RunUntil(site.Now + 10_000);
        Say(name, $"{(site.Now - from) / watch.Elapsed.TotalMilliseconds:N0}× real", $"at least {reach:N0}×");
    }
});

// What people do to an installation, through the host that writes it down: state, clock and trail in one transaction.
Figure("installed", () =>
{
    var (small, large) = (new Installed(Generator.Make(200), Path.Combine(temporary, "small")), new Installed(Generator.Make(20_000), Path.Combine(temporary, "large")));
    Say("a hold at 20 000 points against at 200", $"{Ratio(large.Hold, small.Hold, 41):0.0}×", "under 3×");
    Say("a release at 20 000 points against at 200", $"{Ratio(large.Release, small.Release, 41):0.0}×", "under 3×");
    Say("a send at 20 000 points against at 200", $"{Ratio(large.Send, small.Send, 41):0.0}×", "under 3×");
    var (typical, longest) = large.ManySends(20);
    Say("  twenty sends at once: the site is held, longest", $"{longest:0} ms", "under 20 ms");
    Say("  and half of those who ask wait less than", $"{typical:0.0} ms", "");
    var (keeping, building) = large.Keeping();
    Say("  keeping the whole site: it is held, longest", $"{keeping:0} ms", "under 20 ms");
    Say("  building one room more: it is held, longest", $"{building:0} ms", "under 20 ms");
    (typical, longest) = large.ManySends(1000);
    Say("  a thousand sends at once: the site is held, longest", $"{longest:0} ms", "every page answers");
    Say("  and half of those who ask wait less than", $"{typical:0.0} ms", "");
});

Figure("live", () =>
{
    var (typical, late) = new Installed(Generator.Make(20_000), Path.Combine(temporary, "live")).Live(200, 500);
    Say("live values, 200 browsers × 500 ids: half within", $"{typical:0} ms", "");
    Say("  and 99 of 100 within", $"{late:0} ms", "under 250 ms");
});

Figure("past", () =>
{
    // One room is renamed ten times among so many edits of others.
    static Action Past(string file, int entries)
    {
        var store = new ProjectStore(file);
        Project project = Generator.Make(500);
        store.Write(Changes.Apply(Project.Empty, new ChangeSet([.. project.Records.Select(r => Edit.Of(r))], "bench", 0)).Entry!);
        Place room = project.Find<Place>(new("r0"))!, other = project.Find<Place>(new("r1"))!;
        for (int i = 0; i < entries; i++)
        {
            Place now = i % (entries / 10) == 0 ? room : other;
            store.Write(new JournalEntry(i + 2, 0, "bench", $"Edit {i}", [new RecordChange(now.Id, now, i + 1, now with { Name = $"Room {i}" })]));
        }
        return () =>
        {
            for (int i = 0; i < 50; i++) GC.KeepAlive(store.PastOf(room.Id, 20));
        };
    }
    Say("a record's past among 100 000 entries against 1 000", $"{Ratio(Past(Path.Combine(temporary, "past-large.db"), 100_000), Past(Path.Combine(temporary, "past-small.db"), 1_000)):0.0}×", "under 3×");
});

Figure("image", () =>
{
    Project project = Generator.Make(10_000);
    var controllers = project.All<Controller>().ToList();
    double ratio = Ratio(() => controllers.ForEach(c => ControllerImage.Build(project, c)), () => project.Records.ToList().ForEach(r => JsonSerializer.SerializeToUtf8Bytes(r, RecordJson.Options)));
    Say("building the images of 10 000 points against JSON", $"{ratio:0.00}×", "under 5×");
});

Figure("edit", () =>
{
    static Action Editing(int points)
    {
        Project project = Generator.Make(points);
        FindingsIndex findings = FindingsIndex.Full(project);
        int n = 0;
        return () =>
        {
            for (int i = 0; i < 200; i++)
            {
                Place room = project.Find<Place>(new($"r{n++ % 150}"))!;
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(room with { Name = $"Room {n} new" })], "bench", 0));
                findings = findings.After(project, outcome.After!, outcome.Entry!.Changes.Select(c => c.Id));
                project = outcome.After!;
            }
        };
    }
    Say("an edit among 50 000 points against among 500", $"{Ratio(Editing(50_000), Editing(500)):0.0}×", "under 3×");

    // One schedule drives so many valves, and one setpoint is compared with as many sensors: in both projects there are as many of each.
    static Action UnderAHub(int referrers)
    {
        Project project = Generator.Make(30_000);
        Schedule hours = project.Find<Schedule>(new("hours"))!;
        List<ProjectRecord> changed = [hours with { Kind = PointKind.Analog, StateTexts = [], Unit = "%", Default = null, Week = [], Drives = [.. Enumerable.Range(0, referrers).Select(i => new Drive(new($"v{i}"), 16))] }];
        changed.AddRange(project.All<Sequence>().Select(q => q with { Blocks = [.. q.Blocks.Select(b => b.Id == "aim" ? b with { Inputs = new Dictionary<string, Source>(b.Inputs) { ["g"] = new ConstantSource(1, null, true) } } : b)] }));
        changed.AddRange(Enumerable.Range(0, referrers).Select(i => project.Find<Point>(new($"t{i}"))! with { SetpointId = new("s0") }));
        ChangeOutcome hub = Changes.Apply(project, new ChangeSet([.. changed.Select(r => Edit.Of(r))], "bench", 0));
        project = hub.After ?? throw new InvalidOperationException(hub.Refusals[0].Sentence);
        FindingsIndex findings = FindingsIndex.Full(project);
        TagIndex tags = TagIndex.Full(project);
        int n = 0;
        return () =>
        {
            for (int i = 0; i < 100; i++)
            {
                n++;
                Point valve = project.Find<Point>(new($"v{n % 10}"))!, sensor = project.Find<Point>(new($"t{n % 10}"))!;
                ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(valve with { Description = $"Edited {n}", Fallback = n % 5 }), Edit.Of(sensor with { Description = $"Edited {n}", Low = -n })], "bench", 0));
                tags = tags.After(outcome.After!, outcome.Entry!.Changes);
                findings = findings.After(project, outcome.After!, outcome.Entry.Changes.Select(c => c.Id), tags.Derived);
                project = outcome.After!;
            }
        };
    }
    Say("an edit under a hub of 10 000 against one of 10", $"{Ratio(UnderAHub(10_000), UnderAHub(10)):0.0}×", "under 3×");
});

Figure("grid", () =>
{
    static Action Opening(int points)
    {
        Project project = Generator.Make(points);
        return () =>
        {
            for (int i = 0; i < 20; i++) GC.KeepAlive(RecordOrder.Points(project, new("site")).Take(200).Select(p => project.PathOf(p.Id)).ToList());
        };
    }
    Say("first rows of a grid of 50 000 points against of 500", $"{Ratio(Opening(50_000), Opening(500)):0.0}×", "under 5×");
});

Figure("find", () =>
{
    Project project = Generator.Make(50_000);
    var finder = new Finder();
    finder.Fill(project);
    string[] names = [.. project.Records.Select(r => r.Name.ToLowerInvariant())];
    int found = 0;
    double ratio = Ratio(() => found += finder.Find(project, "1234 room").Count, () => found += names.Count(n => n.Contains("room", StringComparison.Ordinal) || n.Contains("1234", StringComparison.Ordinal)));
    Say("find or do over 50 000 points against a plain loop", $"{ratio:0.0}×", "under 5×");
    GC.KeepAlive(found);
});

Figure("filter", () =>
{
    Project project = Changes.Apply(Generator.Make(50_000), new ChangeSet([.. Model.StarterRules.Select(r => Edit.Of(r))], "bench", 0)).After!;
    TagIndex index = TagIndex.Full(project);
    TagSet[] points = [.. index.All.Where(t => t.Value["point"] is not null).Select(t => t.Value)];
    Filter filter = Filter.Parse("point and temp and sensor and not humidity");
    (string point, string temp, string sensor, string humidity) = (string.Intern("point"), string.Intern("temp"), string.Intern("sensor"), string.Intern("humidity"));
    int found = 0;
    double ratio = Ratio(
        () => found += points.Count(t => filter.Matches(t, index.Resolve)),
        () => found += points.Count(t => t.Find(point) is not null && t.Find(temp) is not null && t.Find(sensor) is not null && t.Find(humidity) is null));
    Say("a tag filter over 50 000 points against a loop by hand", $"{ratio:0.0}×", "under 5×");
    GC.KeepAlive(found);
});

Figure("checks", () =>
{
    Project project = Generator.Make(50_000);
    FindingsIndex findings = FindingsIndex.Full(project);
    TagIndex tags = TagIndex.Full(project);
    int n = 0;
    double ratio = Ratio(
        () =>
        {
            ChangeOutcome outcome = Changes.Apply(project, new ChangeSet([Edit.Of(project.Find<Point>(new("t7"))! with { Name = $"Air temperature {n++}" })], "bench", 0));
            tags = tags.After(outcome.After!, outcome.Entry!.Changes);
            findings = findings.After(project, outcome.After!, [new("t7")], tags.Derived);
            project = outcome.After!;
        },
        () => FindingsIndex.Full(project),
        3);
    Say("an edit with its checks and tags against all anew", $"1/{1 / ratio:N0}", "");
});

Figure("open", () =>
{
    static Action Opening(int points)
    {
        byte[] file = ProjectFile.Write(Generator.Make(points));
        return () => ProjectFile.Salvage(ProjectFile.Read(file).Records);
    }
    Say("opening a file of 50 000 points against 10 times 5 000", $"{Ratio(Opening(50_000), Opening(5_000), 3) / 10:0.0}×", "");
});

Figure("import", () =>
{
    Project empty = Changes.Apply(Project.Empty, new ChangeSet([Edit.Of(new Place { Id = new("site"), Name = "Site", Kind = PlaceKind.Site, TimeZone = "Europe/London" })], "bench", 0)).After!;
    var rows = new List<string[]> { (string[])["Building", "Floor", "Room", "Area", "Point", "Type", "Unit"] };
    for (int i = 0; i < 20_000; i++) rows.Add(["House", $"Floor {i / 2000}", $"Room {i / 5}", "20", $"Point {i % 5}", "AI", "°C"]);
    byte[] file = SheetWriter.Csv(new Sheet("Points", rows));
    Sheet sheet = SheetReader.Read(file).Sheets[0];
    Say("planning an import of 20 000 rows against reading them", $"{Ratio(() => ListImport.Plan(empty, sheet, ListMapping.Propose(sheet)), () => SheetReader.Read(file), 9):0.0}×", "under 5×");
});

Figure("trends", () =>
{
    long start = 0;
    var store = new HistoryStore(Path.Combine(temporary, "ours.db"));
    var peer = new Database(Path.Combine(temporary, "peer.db"), [new Migration(1, "CREATE TABLE s (log INTEGER, at INTEGER, value REAL, status INTEGER, PRIMARY KEY (log, at)) WITHOUT ROWID")]);
    using var connection = peer.Open();
    Database.Run(connection, "PRAGMA synchronous = NORMAL");
    Sample[] Samples() => [.. Enumerable.Range(0, 20_000).Select(i => new Sample(i, (start + i) * 60_000, i % 50, StatusFlags.None))];
    double ratio = Ratio(
        () => store.Write([(new RecordId("log"), Samples(), start += 20_000)]),
        () =>
        {
            using var transaction = connection.BeginTransaction();
            using var insert = Database.Command(connection, "INSERT INTO s VALUES (1, $at, $value, 0)", transaction, ("$at", 0L), ("$value", 0.0));
            foreach (Sample sample in Samples())
            {
                insert.Parameters[0].Value = sample.AtMilliseconds;
                insert.Parameters[1].Value = sample.Value;
                insert.ExecuteNonQuery();
            }
            start += 20_000;
            transaction.Commit();
        });
    Say("trend samples written against plain inserts", $"{1 / ratio:0.00}×", "at least 0.9×");
    var year = new RecordId("year");
    store.Write([(year, [.. Enumerable.Range(0, 525_600).Select(i => new Sample(i, i * 60_000L, 20 + (i % 97 / 10.0), StatusFlags.None))], 525_600)]);
    double sum = 0;
    double chart = Ratio(
        () => store.Buckets(year, 0, 525_600 * 60_000L, 1200),
        () =>
        {
            foreach (Sample sample in store.Samples(year, 0, long.MaxValue)) sum += sample.Value;
        }, 7);
    Say("a year of minutes onto 1 200 pixels against a scan", $"{chart:0.0}×", "under 3×");
    GC.KeepAlive(sum);
});

Figure("client", () =>
{
    string dist = Path.Combine(root, "client/dist");
    if (!Directory.Exists(dist)) return;
    // What the browser fetches before the first screen after signing in: the entry, the frame, the first page, and all they load at once.
    var modules = JsonNode.Parse(File.ReadAllText(Path.Combine(dist, ".vite/manifest.json")))!.AsObject();
    var first = new HashSet<string>();
    void Take(string module)
    {
        if (!first.Add(Path.Combine(dist, modules[module]!["file"]!.GetValue<string>()))) return;
        foreach (JsonNode? import in modules[module]!["imports"]?.AsArray() ?? []) Take(import!.GetValue<string>());
    }
    foreach (string module in new[] { "index.html", "src/shared/frame/AppFrame.vue", "src/plan/PlanPage.vue" }) Take(module);
    double bytes = first.Sum(f =>
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Optimal, true)) gzip.Write(File.ReadAllBytes(f));
        return packed.Length;
    });
    Say("first load of the client, compressed script", $"{bytes / 1000:0} kB", "under 350 kB");
});

Figure("placement", () =>
{
    // 2 000 points of five sorts, an eighth of them in groups of eight that stay together, over at most 60 modules of a made-up range that pays by terminal and by kind.
    Signal[][] sorts = [[Signal.Pt1000, Signal.Volts], [Signal.Volts, Signal.Milliamps], [Signal.DryContact], [Signal.Relay, Signal.Triac], [Signal.Volts, Signal.Milliamps]];
    Direction[] ways = [Direction.In, Direction.In, Direction.In, Direction.Out, Direction.Out];
    HardwareModel Module(string id, int price, params (int Count, Direction Way, Signal[] Signals)[] groups) => new(id, id, HardwareKind.Module, 90) { Price = price, Groups = [.. groups.Select((g, i) => new TerminalGroup($"T{(char)('A' + i)}", "t", g.Count, g.Way, g.Signals))] };
    HardwareModel[] range =
    [
        Module("in-48", 700, (48, Direction.In, [Signal.Pt1000, Signal.Volts, Signal.Milliamps, Signal.DryContact])), Module("in-32", 430, (32, Direction.In, [Signal.Pt1000, Signal.Volts])), Module("contact-64", 480, (64, Direction.In, [Signal.DryContact])),
        Module("relay-48", 610, (48, Direction.Out, [Signal.Relay])), Module("volts-32", 690, (32, Direction.Out, [Signal.Volts, Signal.Milliamps])), Module("mixed-40", 640, (20, Direction.In, [Signal.Pt1000, Signal.Volts, Signal.DryContact]), (10, Direction.Out, [Signal.Relay]), (10, Direction.Out, [Signal.Volts])),
    ];
    var units = new List<PlacementUnit>();
    for (int s = 0; s < sorts.Length; s++) units.Add(new PlacementUnit(sorts[s], ways[s], 350));
    for (int g = 0; g < 31; g++) units.AddRange([new PlacementUnit(sorts[0], ways[0], 4, g), new PlacementUnit(sorts[3], ways[3], 2, g), new PlacementUnit(sorts[4], ways[4], 2, g)]);
    List<PlacementDevice> devices = [.. range.SelectMany(m => Enumerable.Range(0, 30).Select(_ => new PlacementDevice(m, [.. m.Groups.Select(g => g.Count)], false)))];
    var watch = Stopwatch.StartNew();
    PlacementResult result = Placement.Solve(units, devices, new PlacementLimits(60, 100_000, new Dictionary<string, int>()));
    int points = units.Sum(u => u.Count);
    Say($"placement of {points} points over {result.Added.Count} modules, price to bound", $"{result.Price / (double)Math.Max(1, result.LeastPrice):0.000}×", "at most 1.05×");
    Say("  points placed of those that could be", $"{result.Placed} of {result.CouldBePlaced}", "all");
    Say("  time", $"{watch.Elapsed.TotalSeconds:0.0} s", "");
});

Figure("contact", () =>
{
    using var bench = new Contacting(Generator.Make(4000), Path.Combine(temporary, "contact"), 41);
    double one = bench.SetUp(0, 1).GetAwaiter().GetResult(), all = bench.SetUp(1, bench.Count - 1).GetAwaiter().GetResult();
    Say($"{bench.Count - 1} controllers set up at once, to one of them", $"{all / one:0.0}×", $"under {bench.Count - 1}×");
    Say("  time", $"{all:0.0} s", "");
    // The whole goes when the runtime is another; one record, when one record is.
    string runtime = "3.4";
    var whole = Enumerable.Range(0, 6).Select(_ => bench.Send(c => Edit.Of(c with { Runtime = runtime = runtime == "3.4" ? "3.3" : "3.4" })).GetAwaiter().GetResult()).ToList();
    var record = Enumerable.Range(0, 6).Select(i => bench.Send(c => bench.OneRecord(c, 10 + i)).GetAwaiter().GetResult()).ToList();
    Say("a send of one changed record, to one of the whole", $"{record.Order().ElementAt(3).Seconds / whole.Order().ElementAt(3).Seconds:0.00}×", "under 0.5×");
    Say("  bytes", $"{record[0].Bytes / (double)whole[0].Bytes:0.000}×", "under 0.05×");
});

Directory.Delete(temporary, recursive: true);

void Figure(string name, Action measure)
{
    if (only.Length == 0 || only == name) measure();
}

static void Say(string figure, string measured, string reach) => Console.WriteLine($"{figure,-52} {measured,14} {reach,16}");

static double Ratio(Action subject, Action peer, int rounds = 15)
{
    subject();
    peer();
    var ratios = new List<double>();
    for (int i = 0; i < rounds; i++)
    {
        double a = Time(subject), b = Time(peer);
        ratios.Add(a / b);
    }
    ratios.Sort();
    return ratios[rounds / 2];

    static double Time(Action action)
    {
        long from = Stopwatch.GetTimestamp();
        action();
        return Stopwatch.GetElapsedTime(from).TotalMilliseconds;
    }
}

Project Demo()
{
    return Changes.Apply(Project.Empty, new ChangeSet(ProjectFolder.Read(Path.Combine(root, "demo")), "bench", 0)).After!;
}

/// <summary>The generator's fan-coil logic as a programmer would write it, statuses included.</summary>
internal sealed class HandWritten
{
    private double _integral = double.NaN, _last = double.NaN, _given = double.NaN, _gain = double.NaN;

    public double Gain { get; set; } = 10;

    public PinValue Output { get; private set; }

    [MethodImpl(MethodImplOptions.NoInlining)]
    public double Scan(PinValue[] readings, double now)
    {
        const StatusFlags unusable = StatusFlags.Fault | StatusFlags.Released;
        ref readonly PinValue temperature = ref readings[0], setpoint = ref readings[1], hours = ref readings[2];
        if ((hours.Status & unusable) != 0) return Give(double.NaN, hours.Status & unusable);
        bool open = hours.Value > 0.5;
        StatusFlags status = temperature.Status | (open ? setpoint.Status : StatusFlags.None);
        if ((status & unusable) != 0)
        {
            _last = double.NaN;
            return Give(double.NaN, status & unusable);
        }
        double proportional = Gain * ((open ? setpoint.Value : 16) - temperature.Value);
        if (double.IsNaN(_integral)) _integral = 0;
        // Another gain goes on without a jump.
        if (Gain != _gain && !double.IsNaN(_gain) && Math.Clamp(proportional + _integral, 0, 100) != _given) _integral = Math.Clamp(_given - proportional, -100, 100);
        _gain = Gain;
        double passed = double.IsNaN(_last) ? 0 : now - _last, grown = _integral + (proportional * passed / 600);
        if (proportional + grown > 100 && grown > _integral) grown = Math.Max(_integral, Math.Min(grown, Math.Max(0, 100 - proportional)));
        else if (proportional + grown < 0 && grown < _integral) grown = Math.Min(_integral, Math.Max(grown, Math.Min(0, -proportional)));
        (_integral, _last) = (grown, now);
        double output = Math.Clamp(proportional + grown, 0, 100);
        _given = output;
        return Give(Math.Min(Math.Max(output, 5), 95), status & (StatusFlags.Stale | StatusFlags.Overridden));
    }

    private double Give(double value, StatusFlags status)
    {
        Output = new(value, status);
        return value;
    }
}
