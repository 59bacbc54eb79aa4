using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.VirtualSite.Plant;
using static LoftyWren.Core.Tests.KilnRoom;

namespace LoftyWren.VirtualSite.Tests.Proofs;

/// <summary>Stories lived against a plant that answers, and on a copy of a site that runs: they must disturb nothing, come to the same every time, and differ where the logic does.</summary>
public class TestStandTests
{
    private static Core.Sequences.Sequence Logic(Project project) => project.Find<Core.Sequences.Sequence>(Core.Tests.KilnRoom.Sequence)!;

    private static FunctionTest Test(Project project, TestGround on, string text)
    {
        var (steps, problems) = TestText.Read(text, new SubjectNames(project, Logic(project)));
        Assert.Empty(problems);
        return new FunctionTest { Id = "t", Name = "t", On = on, Steps = steps };
    }

    private static Proof OnPlant(Project project, string text)
    {
        FunctionTest test = Test(project, TestGround.Plant, text);
        Core.Images.ControllerImage image = ProofBench.Alone(project, Logic(project) with { Tests = [test] });
        return ProofBench.Prove(project, Logic(project), test, new EngineStand(image, Logic(project).Id, new BenchPlant(project, [.. image.Records.OfType<Point>()])));
    }

    private static string Words(Proof proof) => string.Join('\n', proof.Steps.Select(s => $"{s.Passed} {s.Line}: {s.Says}"));

    private const string Cools = """
        start Tuesday 22:00
        begin with Room temperature at 33 °C
        expect Extract fan on within 10 s
        wait until Room temperature below 29 °C within 2 h
        """;

    [Fact]
    public void The_plant_answers_what_is_commanded_and_the_same_every_time()
    {
        Project project = Project();
        Proof once = OnPlant(project, Cools);
        Assert.True(once.Passed, Words(once));
        Assert.Equal(Words(once), Words(OnPlant(project, Cools)));
        Assert.Equal(once.Story.Lines.SelectMany(l => l.Values), OnPlant(project, Cools).Story.Lines.SelectMany(l => l.Values));
        // With its claim taken away nothing cools the room in time: the plant does not answer by itself.
        Project without = Accept(project, Edit.Of(Logic(project) with { Commands = [] }, project.FindEntry(Core.Tests.KilnRoom.Sequence)!.Revision));
        Proof broken = OnPlant(without, Cools.Replace("expect Extract fan on within 10 s\n", "", StringComparison.Ordinal));
        Assert.False(broken.Passed, Words(broken));
    }

    /// <summary>What the story says of a sensor goes before what the plant would say, until it is let go; what the room really is goes on meanwhile.</summary>
    [Fact]
    public void A_sensor_that_is_set_hides_the_plant_until_it_is_let_go()
    {
        Proof proof = OnPlant(Project(), """
            start Tuesday 22:00
            begin with Room temperature at 20 °C
            set Room temperature to 35 °C
            expect Room temperature 35 °C for 10 min
            let go Room temperature
            expect Room temperature between 15 °C and 21 °C within 10 s
            fail Room temperature
            expect Room temperature in fault within 10 s
            """);
        Assert.True(proof.Passed, Words(proof));
    }

    private static Proof OnSite(Site site, Project project, string text) =>
        ProofBench.Prove(project, Logic(project), Test(project, TestGround.Site, text), new SiteStand(SiteSnapshot.Of(site).ToCopy(), Logic(project).Id));

    private const string Story = """
        start Wednesday 20:00
        set Room temperature to 30 °C
        expect Extract fan on within 10 s for 1 min
        ramp Room temperature to 20 °C over 5 min
        wait until Extract fan off within 6 min
        fail Room temperature
        expect Room temperature in fault within 10 s
        let go Room temperature
        begin with Room temperature at 33 °C
        expect Extract fan on within 5 min
        set Extract fan to off
        expect Extract fan off within 5 s
        let go Extract fan
        cut power for 30 s
        wait until Extract fan on within 10 min
        """;

    [Fact]
    public void A_copy_of_the_site_is_lived_on_and_the_site_notices_nothing()
    {
        Project project = Project();
        Site site = Building.Up(project, At(2026, 4, 15, 10, 0));
        site.RunUntil(site.Now + 60_000);
        string before = site.Picture();
        Proof proof = OnSite(site, project, Story);
        Assert.True(proof.Passed, Words(proof));
        Assert.Equal(before, site.Picture());
        Assert.Empty(site.InputHolds);
        Assert.Equal(Words(proof), Words(OnSite(site, project, Story)));
    }

    /// <summary>What runs there is tried, not what is drawn: a sequence that was sent broken fails, though it is whole by now.</summary>
    [Fact]
    public void What_was_sent_is_what_is_tried()
    {
        Project project = Project();
        Project broken = Accept(project, Edit.Of(Logic(project) with { Commands = [] }, project.FindEntry(Core.Tests.KilnRoom.Sequence)!.Revision));
        Site site = Building.Up(broken, At(2026, 4, 15, 20, 0));
        Assert.False(OnSite(site, project, "set Room temperature to 30 °C\nexpect Extract fan on within 10 s").Passed);
        Project without = Accept(broken, Edit.Of(Logic(broken) with { ControllerId = null }, broken.FindEntry(Core.Tests.KilnRoom.Sequence)!.Revision));
        Site none = Building.Up(without, At(2026, 4, 15, 20, 0));
        Assert.Contains("does not run on the site", Assert.Throws<InvalidOperationException>(() => OnSite(none, project, "wait 1 min")).Message, StringComparison.Ordinal);
    }

    /// <summary>What is on no terminal cannot be put there; the story says so at its step, and ends.</summary>
    [Fact]
    public void What_cannot_be_set_there_fails_in_words()
    {
        Project project = Project();
        Site site = Building.Up(project, At(2026, 4, 15, 20, 0));
        SiteSnapshot snapshot = SiteSnapshot.Of(site);
        SiteCopy unwired = snapshot.ToCopy() with { Plan = site.Plan with { Wires = [] } };
        Proof proof = ProofBench.Prove(project, Logic(project), Test(project, TestGround.Site, "set Room temperature to 30 °C\nexpect Extract fan on within 10 s"), new SiteStand(unwired, Logic(project).Id));
        Assert.Contains("Nothing is wired", Assert.Single(proof.Steps).Says, StringComparison.Ordinal);
    }

    /// <summary>One that takes longer than it may is given up, and says so.</summary>
    [Fact]
    public void What_takes_too_long_is_given_up()
    {
        Project project = Project();
        int asked = 0;
        Proof proof = ProofBench.Prove(project, Logic(project), Test(project, TestGround.Alone, "wait 5 d\nexpect Extract fan off"), null, () => ++asked > 3);
        Assert.False(proof.Passed);
        Assert.Contains("takes too long", proof.Steps[^1].Says, StringComparison.Ordinal);
        Assert.Equal(4, asked);
    }
}
