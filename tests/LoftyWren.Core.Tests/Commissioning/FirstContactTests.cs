using LoftyWren.Core.Commissioning;
using LoftyWren.Core.Devices;
using LoftyWren.Core.Hardware;
using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Trends;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.Core.Tests.Commissioning;

/// <summary>What a first contact and a send take: parts with all they need, the plan of a send, secrets, the sheet.</summary>
public class FirstContactTests
{
    private static readonly LinkQuality Link = new(1000, 0, 10);

    private static Controller Own(Project project) => project.Find<Controller>(KilnRoom.Controller)!;

    private static (IReadOnlyList<ImagePart> Parts, IReadOnlyList<string> Troubles) Parts(Project project, Func<Controller, Controller>? change = null, HardwareModel? model = null)
    {
        Controller controller = (change ?? (c => c))(Own(project));
        ControllerImage image = ControllerImage.Build(project, controller);
        return ImageParts.Of(model ?? Catalogue.Find(project, controller.ModelId)!, controller, image, image.ToBytes());
    }

    private static IReadOnlyList<InstalledPart> There(IEnumerable<ImagePart> parts) => [.. parts.Select(p => new InstalledPart(p.Key, p.Layer, p.Version, p.Hash, p.Bytes))];

    private static SendPlan Plan(IReadOnlyList<ImagePart> design, IReadOnlyList<InstalledPart> there) => SendPlan.Of(design, [], there, 8192, Link, 16384);

    [Fact]
    public void An_application_gets_what_it_needs_and_what_that_needs_and_nothing_else()
    {
        // One sequence and one schedule: logic and schedules, which need kernel and network; no trend, no alarm, no module.
        var (parts, troubles) = Parts(Project());
        Assert.Empty(troubles);
        Assert.Equal(["loader", "kernel", "network", "logic", "schedules", "application"], parts.Select(p => p.Key));
        Assert.Equal("needed by 1 schedule", parts.Single(p => p.Key == "schedules").Why);
        Project trended = Accept(Project(), new TrendLog { Id = new("log"), Name = "Room temperature", PointId = Temperature });
        Assert.Contains(Parts(trended).Parts, p => p.Key == "trends" && p.IsNeeded);
        // By choice, with what it needs in turn.
        var extra = Parts(Project(), c => c with { ExtraParts = ["modules", "alarms"] }).Parts;
        Assert.Equal(["alarms", "modules"], extra.Where(p => !p.IsNeeded).Select(p => p.Key).Order());
        Assert.Equal("by choice", extra.Single(p => p.Key == "alarms").Why);
    }

    [Fact]
    public void A_part_that_the_model_has_not_is_told_with_who_needs_it()
    {
        HardwareModel model = Catalogue.Shipped.Single(m => m.Id == "compact-20");
        var without = Parts(Project(), model: model with { Parts = [.. model.Parts.Where(p => p.Key != "schedules")] });
        Assert.Equal(["The part ‘schedules’ is needed by 1 schedule, and Compact controller, 20 terminals has no such part. Move them to another controller, or choose a model that has it."], without.Troubles);
        var circle = Parts(Project(), model: model with { Parts = [.. model.Parts.Select(p => p.Key == "kernel" ? p with { Needs = ["logic"] } : p)] });
        Assert.StartsWith("Parts of Compact controller, 20 terminals need each other in a circle", circle.Troubles[0], StringComparison.Ordinal);
        var small = Parts(Project(), model: model with { MemoryKilobytes = 4000 });
        // 1800 + 900 + 1400 + 300 kB of parts, 256 kB of loader, and the application.
        Assert.StartsWith("The parts of KH-C1 take 4,659 kB", small.Troubles[0], StringComparison.Ordinal);
        Assert.EndsWith("has 4,000 kB. Leave out parts by choice, move records to another controller, or choose a larger model.", small.Troubles[0], StringComparison.Ordinal);
    }

    [Fact]
    public void Out_of_the_box_everything_goes_but_the_loader_that_is_there()
    {
        var parts = Parts(Project()).Parts;
        SendPlan plan = Plan(parts, There(parts.Where(p => p.Key == "loader")));
        Assert.Equal(["kernel", "network", "logic", "schedules", "application"], plan.Lines.Where(l => l.Goes).Select(l => l.Key));
        Assert.True(plan.Restarts);
        // 4400 kB and the application: each byte 8 µs at 1 Mbit/s, each of 16 kB another 10 ms.
        double bytes = (4400 * 1024) + parts[^1].Bytes;
        Assert.Equal((bytes * 8 / 1e6) + (Math.Ceiling(bytes / 16384) * 0.01), plan.Seconds, 0.1);
        Assert.Equal(18.5, plan.StartSeconds);
    }

    [Fact]
    public void Of_one_changed_record_the_application_goes_alone_and_nothing_rests()
    {
        var before = Parts(Project()).Parts;
        var after = Parts(Project(differential: 1.5)).Parts;
        SendPlan plan = Plan(after, There(before));
        Assert.Equal(["application"], plan.Lines.Where(l => l.Goes).Select(l => l.Key));
        Assert.Equal((after[^1].Bytes, false), (plan.Bytes, plan.Restarts));
        Assert.Equal(0, Plan(before, There(before)).Bytes);
    }

    [Fact]
    public void A_new_runtime_takes_the_loader_and_the_application_with_it()
    {
        var old = Parts(Project(), c => c with { Runtime = "3.3" }).Parts;
        var now = Parts(Project()).Parts;
        Assert.Equal("3.3", old.Single(p => p.Key == "kernel").Version);
        SendPlan plan = Plan(now, There(old));
        Assert.All(plan.Lines, l => Assert.True(l.Goes));
        Assert.Equal("version 3.3 is there", plan.Lines.Single(l => l.Key == "kernel").Why);
        Assert.Equal("a new version of the runtime takes the loader and everything on it", plan.Lines[0].Why);
        // A new loader takes all the rest.
        SendPlan loader = Plan(now, [.. There(now).Select(p => p.Key == "loader" ? p with { Version = "1.5", Hash = "x" } : p)]);
        Assert.All(loader.Lines, l => Assert.True(l.Goes));
        // A part that is new takes the application along, which is made ready with it.
        Project trended = Accept(Project(), new TrendLog { Id = new("log"), Name = "Room temperature", PointId = Temperature });
        Assert.Equal(["trends", "application"], Plan(Parts(trended).Parts, There(now)).Lines.Where(l => l.Goes).Select(l => l.Key));
        // What nothing needs any more stays.
        PlanLine left = Plan(now, There(Parts(trended).Parts)).Lines.Single(l => l.Key == "trends");
        Assert.Equal((false, false), (left.Goes, left.IsNeeded));
    }

    [Fact]
    public void Firmware_is_the_same_on_every_machine_and_says_what_it_is()
    {
        byte[] kernel = Firmware.Bytes("compact-20", "kernel", "3.4", 64);
        Assert.Equal(64 * 1024, kernel.Length);
        Assert.Equal(kernel, Firmware.Bytes("compact-20", "kernel", "3.4", 64));
        Assert.Equal(new FirmwareHead("compact-20", "kernel", "3.4"), Firmware.HeadOf(kernel));
        Assert.NotEqual(HostKinds.HashOf(kernel), Firmware.HashOf("compact-20", "kernel", "3.3", 64));
        Assert.Null(Firmware.HeadOf("no head at all"u8));
        Assert.Null(Firmware.HeadOf("{]\n"u8));
    }

    private static readonly TypedSecrets Good = new("contractor", "blue-glaze-77", "blue-glaze-77", "three pots on a shelf", "three pots on a shelf");

    public static TheoryData<TypedSecrets, string, string> Wrong => new()
    {
        { Good with { Account = "x" }, "account", "An account is 3 to 32 letters, digits, dots or hyphens." },
        { Good with { Account = "Factory" }, "account", "That is the factory's account, which is taken away at first contact. Choose another name." },
        { Good with { Secret = "short", SecretAgain = "short" }, "secret", "A secret has at least 10 characters; this one has 5." },
        { Good with { Secret = "aaaaaaaaaaaa", SecretAgain = "aaaaaaaaaaaa" }, "secret", "This secret is a few characters over and over. Choose one that is harder to guess." },
        { Good with { Secret = DeviceAccount.Factory.Secret, SecretAgain = DeviceAccount.Factory.Secret }, "secret", "That is the factory's secret, which everybody knows. Choose another." },
        { Good with { Secret = "the-contractor-1", SecretAgain = "the-contractor-1" }, "secret", "The secret holds the name of the account. Choose one that does not." },
        { Good with { Secret = "blue-glaze-77 ", SecretAgain = "blue-glaze-77 " }, "secret", "A blank at an end of a secret is soon forgotten. Leave it out." },
        { Good with { SecretAgain = "blue-glaze-78" }, "secretAgain", "The two secrets differ. Type both again." },
        { Good with { Passphrase = "blue-glaze-77", PassphraseAgain = "blue-glaze-77" }, "passphrase", "The passphrase is the secret. Whoever knows the one would have the other; choose another." },
        { Good with { Passphrase = "pots", PassphraseAgain = "pots" }, "passphrase", "A passphrase has at least 12 characters; this one has 4." },
        { Good with { SecondAccount = "Contractor", SecondSecret = "red-clay-and-sand", SecondSecretAgain = "red-clay-and-sand" }, "secondAccount", "The second account has the name of the first. Choose another." },
        { Good with { SecondAccount = "client", SecondSecret = "blue-glaze-77", SecondSecretAgain = "blue-glaze-77" }, "secondSecret", "The second account has a secret of its own, so that one can be taken away without the other." },
    };

    [Theory]
    [MemberData(nameof(Wrong))]
    public void Secrets_that_would_lock_somebody_out_or_let_anybody_in_are_told(TypedSecrets typed, string field, string sentence)
    {
        Assert.Empty(SecretRules.Check(Good));
        Assert.Equal([new SecretTrouble(field, sentence)], SecretRules.Check(typed));
    }

    [Fact]
    public void Secrets_are_not_said_by_accident()
    {
        Assert.DoesNotContain("blue", $"{Good} {Good.ToSecrets()} {Good.ToSecrets().Accounts[0]}", StringComparison.Ordinal);
    }

    private static SeenDevice Seen(bool factory = true, string? remembered = null, string model = "compact-20", bool kept = false) =>
        new(new DeviceIdentity("1234-BCDF", model, "", factory, SystemStatus.DownloadRequired, 0), new string('a', 64), remembered, kept, false, -90_000, null);

    private static Dictionary<string, SheetLine> Sheet(SeenDevice? seen, Func<Controller, Controller>? change = null)
    {
        Project project = Project();
        var (parts, troubles) = Parts(project, change);
        return SetUpSheet.Of(project, (change ?? (c => c))(Own(project)), seen, SendPlan.Of(parts, troubles, [], 8192, Link, 16384), true).ToDictionary(l => l.Key);
    }

    [Fact]
    public void The_sheet_decides_everything_by_default_and_says_why()
    {
        Assert.Equal(SheetState.Needs, Sheet(null)["device"].State);
        var box = Sheet(Seen());
        Assert.Equal((SheetState.Ready, SheetState.Look, SheetState.Needs), (box["device"].State, box["certificate"].State, box["secrets"].State));
        Assert.Equal(("10.20.1.11/24", SheetState.Ready), (box["network"].Says, box["network"].State));
        Assert.Equal("90 s behind", box["clock"].Says);
        Assert.Equal(("yes", SheetState.Ready), (box["power"].Says, box["power"].State));
        Assert.DoesNotContain(box.Values, l => l.State == SheetState.Blocked);
        Assert.All(box.Values, l => Assert.NotEmpty(l.Why));
        Assert.Equal(SheetState.Look, Sheet(Seen(), c => c with { StartsAfterPower = false })["power"].State);
        Assert.Equal(SheetState.Blocked, Sheet(Seen(model: "room-8"))["device"].State);
        Assert.Equal(SheetState.Blocked, Sheet(Seen(remembered: new string('b', 64)))["certificate"].State);
        Assert.Equal(SheetState.Done, Sheet(Seen(factory: false, remembered: new string('a', 64), kept: true))["secrets"].State);
        Assert.Equal(SheetState.Needs, Sheet(Seen(factory: false))["secrets"].State);
    }
}
