using LoftyWren.Core.Bus.Stories;
using static LoftyWren.Core.Tests.Bus.Told;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>What single channels do when bus or mains fail at an awkward moment; figures by hand from the settings.</summary>
public sealed class LossAndReturnTests
{
    private const string Quiet = "sendDelay=0; ";

    // 40 s down, 50 s up, 0.2 s until the motor turns, 3 s longer at an end.
    private const string Shutter = Quiet + "blind1.function=shutter; blind1.downTime=40; blind1.upTime=50; blind1.dead=0.2; blind1.pause=0.5; blind1.reserve=3; blind1.windWatch=0";

    private const string Down = "1 tell blind1.move 0; 60 tell blind1.move 1; ";

    [Theory]
    [InlineData("200 tell blind1.windAlarm 1; 210 lose bus for 12; 230 tell blind1.windAlarm 1")]
    [InlineData("200 tell blind1.windAlarm 1; 210 lose bus for 12")]
    [InlineData("200 tell blind1.windAlarm 1; 210 lose mains for 12")]
    [InlineData("190 lose mains for 30; 200 tell blind1.windAlarm 1")]
    [InlineData("190 lose mains for 30; 200 tell blind1.windAlarm 1; 205 lose bus for 5")]
    public void A_wind_alarm_opens_the_blind_whatever_fails_meanwhile(string events)
    {
        StoryRun run = Story(Device("blinds-4", Shutter), 400, Down + events);
        Assert.Equal(100, run.At("blind1.height", 199));
        Assert.Equal(0, run.At("blind1.height", 390));
        Assert.Equal(0, run.At("blind1.motor", 390));
    }

    [Fact]
    public void A_blind_is_not_lowered_into_a_storm_when_the_bus_fails()
    {
        StoryRun run = Story(Device("blinds-4", Shutter + "; blind1.busLoss=down; blind1.busReturn=down"), 500, Down + "200 tell blind1.windAlarm 1; 300 lose bus for 60; 420 tell blind1.windAlarm 0");
        for (int at = 260; at < 500; at += 20) Assert.Equal(0, run.At("blind1.height", at));
        // Without an alarm it does what its settings say.
        Assert.Equal(100, Story(Device("blinds-4", Shutter + "; blind1.busLoss=down"), 500, "1 tell blind1.move 0; 300 lose bus for 60").At("blind1.height", 350));
    }

    [Fact]
    public void An_order_that_replaces_a_waiting_one_is_the_only_one_carried_out()
    {
        StoryRun run = Story(Device("blinds-4", Shutter), 300, "1 tell blind1.move 0; 100 tell blind1.move 1; 110 tell blind1.move 0; 110.2 tell blind1.move 1");
        // By 110 it has come down for 9.8 s of 40; of the rest 30.2 s, with 0.2 s before and 3 s at the end.
        Assert.Equal("0=0 1=-1 54.2=0 100=1 110=0 110.2=1 143.6=0", run.Steps("blind1.motor"));
        Assert.Equal(24.5, run.At("blind1.height", 110.1), 6);
        Assert.Equal(100, run.At("blind1.height", 200));
    }

    [Fact]
    public void An_order_without_mains_is_carried_out_when_they_return_and_a_step_calls_it_off()
    {
        Assert.Equal(60, Story(Device("blinds-4", Shutter), 300, "1 tell blind1.move 0; 90 lose mains for 60; 100 tell blind1.position 60").At("blind1.height", 250), 6);
        Assert.Equal(0, Story(Device("blinds-4", Shutter), 300, "1 tell blind1.move 0; 90 lose mains for 60; 100 tell blind1.position 60; 110 tell blind1.stepIt 0").At("blind1.height", 250), 6);
        // What the mains interrupt goes on when they return: down from 100, without mains from 110 to 150.
        Assert.Equal("0=0 1=-1 54.2=0 100=1 110=0 150=1 183.4=0", Story(Device("blinds-4", Shutter), 300, "1 tell blind1.move 0; 100 tell blind1.move 1; 110 lose mains for 40").Steps("blind1.motor"));
    }

    [Fact]
    public void A_blind_follows_the_sun_again_though_the_bus_failed_while_it_was_in_manual_mode()
    {
        StoryRun run = Story(Device("blinds-4", Shutter + "; blind1.sun=yes; blind1.sunHeight=80; blind1.handFor=600"), 2000, "1 tell blind1.move 0; 100 tell blind1.sunShines 1; 200 tell blind1.move 0; 300 lose bus for 20");
        Assert.Equal(0, run.At("blind1.height", 900));
        // 600 s from the return at 320 on.
        Assert.Equal(80, run.At("blind1.height", 1000), 6);
    }

    [Theory]
    // Beyond its limit from 10 on; the bus fails within the 4 s of the delay and returns at 18.
    [InlineData("10 sense wind 20; 12 lose bus for 6", "0=0 18=0 22=1")]
    // The wind rises while there is no bus and then stays as it is.
    [InlineData("5 lose bus for 10; 8 sense wind 20", "0=0 15=0 19=1")]
    // Raised before: it stays so, and is said again.
    [InlineData("10 sense wind 20; 20 lose bus for 10", "0=0 14=1 30=1")]
    public void A_weather_alarm_is_raised_though_the_bus_failed(string events, string sent) =>
        Assert.Equal(sent, Story(Device("weather-2", Quiet + "output1.function=threshold; output1.of=wind; output1.windLimit=10; output1.onDelay=4; output1.every=0"), 100, events).Sent("output1.alarm"));

    [Theory]
    [InlineData("closes", "5 sense input1.contact 1; 20 lose bus for 10", "0=0 5.05=1 30=1")]
    [InlineData("closes", "5 sense input1.contact 1; 20 lose bus for 10; 25 sense input1.contact 0", "0=0 5.05=1 30=0")]
    // Normally closed: open counts as pressed, and nothing is sensed before it closes.
    [InlineData("opens", "5 sense input1.contact 1; 20 lose bus for 10; 25 sense input1.contact 0", "0=1 5.05=0 30=1")]
    public void A_contact_tells_its_true_state_after_bus_return(string contact, string events, string sent) =>
        Assert.Equal(sent, Story(Device("binary-8", Quiet + $"input1.function=state; input1.contact={contact}"), 60, events).Sent("input1.switch"));

    [Fact]
    public void A_press_that_ended_without_bus_is_none()
    {
        StoryRun run = Story(Device("button-4", Quiet + "button1.function=dim; button1.debounce=0"), 60, "10 sense button1.contact 1; 12 lose bus for 5; 14 sense button1.contact 0; 30 sense button1.contact 1 for 0.1");
        Assert.Equal("10.4=9", run.Sent("button1.dim"));
        Assert.Equal("30.1=0", run.Sent("button1.switch"));
    }

    [Fact]
    public void A_button_that_is_locked_while_it_dims_says_stop()
    {
        StoryRun run = Story(Device("button-4", Quiet + "button1.function=dim; button1.debounce=0; button1.lock=yes"), 60, "10 sense button1.contact 1 for 5; 12 tell button1.lockIt 1");
        Assert.Equal("10.4=9 12=8", run.Sent("button1.dim"));
    }

    [Theory]
    [InlineData("pulse; output1.pulse=60", "20 lose bus for 5", "0=0 5=1 85=0")]
    [InlineData("staircase; output1.staircase=60; output1.warning=0; output1.busReturn=keep", "20 lose bus for 5", "0=0 5=1 85=0")]
    [InlineData("delay; output1.offDelay=60", "15 tell output1.switch 0; 20 lose bus for 5", "0=0 5=1 85=0")]
    public void What_was_on_for_a_time_has_all_of_it_again_after_bus_return(string function, string events, string steps) =>
        Assert.Equal(steps, Story(Device("switch-6", Quiet + $"output1.function={function}"), 300, "5 tell output1.switch 1; " + events).Steps("output1.output"));

    [Fact]
    public void A_minimum_time_holds_when_the_bus_fails()
    {
        // On at 5 for at least 60 s; without bus it is to be off, and is so at 65; off for at least 30 s, it is on again at 95.
        Assert.Equal("0=0 5=1 65=0 95=1", Story(Device("switch-6", Quiet + "output1.leastOn=60; output1.leastOff=30; output1.busLoss=off"), 300, "5 tell output1.switch 1; 10 lose bus for 60").Steps("output1.output"));
    }

    [Fact]
    public void The_warning_of_a_staircase_leaves_alone_what_is_forced()
    {
        const string stairs = Quiet + "output1.function=staircase; output1.staircase=20; output1.warning=10; output1.forcing=yes; output1.unforced=follow";
        Assert.Equal("0=0 5=1 25=0 26=1 35=0", Story(Device("switch-6", stairs), 60, "5 tell output1.switch 1").Steps("output1.output"));
        Assert.Equal("0=0 5=1 50=0", Story(Device("switch-6", stairs), 60, "5 tell output1.switch 1; 10 tell output1.force 3; 50 tell output1.force 0").Steps("output1.output"));
    }

    [Fact]
    public void A_fan_rests_for_its_minimum_time_before_a_kick_start()
    {
        const string fan = Quiet + "room1.demandIs=told; room1.fan=stages; room1.stages=3; room1.stageFor=60; room1.kickStage=2; room1.kickFor=5";
        // Kicked at 10, stage 1 from 15 for at least 60 s, off at 80, asked for again at 90: not before 140.
        Assert.Equal("10=2 15=1 80=0 140=2 145=1", Story(Device("fan-coil-2", fan), 200, "10 tell room1.heatDemand 20; 80 tell room1.heatDemand 0; 90 tell room1.heatDemand 20").Steps("room1.fanStage"));
    }

    [Fact]
    public void A_temperature_that_comes_again_is_no_longer_lost()
    {
        StoryRun run = Story(Device("room-2", Quiet + "room1.source=bus; room1.watch=300"), 800, "10 tell room1.temperature 20; 600 tell room1.temperature 20");
        Assert.Equal("310=1 600=0", run.Sent("room1.lost"));
    }

    [Theory]
    [InlineData("percent", "heatValue", "900=20")]
    // Open or closed only: for 20 % of 15 min, from each full quarter of an hour on.
    [InlineData("binary", "heatOn", "900=1")]
    public void Without_any_temperature_heating_takes_its_position_against_frost(string answer, string what, string expected)
    {
        StoryRun run = Story(Device("room-2", Quiet + $"room1.source=bus; room1.watch=300; room1.answer={answer}; room1.answerEvery=0"), 1200, "10 tell room1.temperature 30");
        Assert.EndsWith(expected + (answer == "binary" ? " 1080=0" : ""), run.Sent($"room1.{what}").Replace("310=20", "900=20", StringComparison.Ordinal));
    }

    [Fact]
    public void The_slow_ends_of_a_blind_are_drawn_as_they_are()
    {
        // 10 % at each end at half the speed: 1/6, 2/3 and 1/6 of 40 s; down at 60, turning from 60.2 on.
        StoryRun run = Story(Device("blinds-4", Shutter + "; blind1.slowEnd=10; blind1.ratio=50"), 200, "1 tell blind1.move 0; 60 tell blind1.move 1");
        var travel = new Core.Bus.Behaviours.Travel(10, 0.5);
        for (double at = 60.3; at < 100; at += 1.7) Assert.Equal(travel.HeightAfter((at - 60.2) / 40), run.At("blind1.height", at), 0.01);
        Assert.Equal(5, run.At("blind1.height", 60.2 + (40 / 12.0)), 0.01);
    }

    [Fact]
    public void Devices_of_a_line_do_not_transmit_at_once_after_bus_return()
    {
        long[] of = [.. Enumerable.Range(1, 64).Select(n => Core.Bus.IndividualAddress.Of(1, 1, n).StaggerMilliseconds)];
        Assert.Equal(64, of.Distinct().Count());
        // A telegram of one octet takes 20.3 ms: each device has room for four and more before the next begins.
        Assert.All(of.Zip(of.Skip(1)), p => Assert.InRange(p.Second - p.First, 82, 1000));
        Assert.NotEqual(Core.Bus.IndividualAddress.Of(1, 1, 5).StaggerMilliseconds, Core.Bus.IndividualAddress.Of(1, 2, 5).StaggerMilliseconds);
    }
}
