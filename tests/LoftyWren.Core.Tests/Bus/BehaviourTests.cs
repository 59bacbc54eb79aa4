using LoftyWren.Core.Bus.Stories;
using static LoftyWren.Core.Tests.Bus.Told;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Behaviours of bus devices against timing stories drawn by hand: the moments are sums of the parameters that are set beside them.</summary>
public sealed class BehaviourTests
{
    private const string Quiet = "sendDelay=0;";

    [Fact]
    public void Switching_follows_what_it_is_told_and_says_so()
    {
        StoryRun run = Story(Device("switch-4", Quiet), 60, "5 tell output1.switch 1; 20 tell output1.switch 0");
        Assert.Equal("0=0 5=1 20=0", run.Steps("output1.output"));
        Assert.Equal("0=0 5=1 20=0", run.Sent("output1.state"));
        Assert.Equal(("told on", "output1.function"), run.Why("output1.output", 5));
    }

    [Fact]
    public void A_normally_closed_contact_is_open_when_the_output_is_on()
    {
        StoryRun run = Story(Device("switch-4", Quiet + "output1.contact=closed"), 60, "5 tell output1.switch 1");
        Assert.Equal("0=1 5=0", run.Steps("output1.output"));
        Assert.Equal("0=0 5=1", run.Sent("output1.state"));
    }

    [Fact]
    public void Delays_run_once_and_the_contrary_ends_them()
    {
        // On at 10 comes at 15, though told again at 12; off at 30 comes at 50; off at 70 is ended by on at 80; on at 100.. is never off again.
        StoryRun run = Story(Device("switch-4", Quiet + "output1.function=delay; output1.onDelay=5; output1.offDelay=20"), 200,
            "10 tell output1.switch 1; 12 tell output1.switch 1; 30 tell output1.switch 0; 60 tell output1.switch 1; 70 tell output1.switch 0; 80 tell output1.switch 1");
        Assert.Equal("0=0 15=1 50=0 65=1", run.Steps("output1.output"));
        Assert.Equal(("the off delay is over", "output1.offDelay"), run.Why("output1.output", 51));
    }

    [Fact]
    public void A_staircase_warns_with_a_blink_and_goes_off()
    {
        // On at 10 for 180: at 190 it opens for a second, at 220 it is off.
        const string stairs = Quiet + "output1.function=staircase; output1.staircase=180; output1.warning=30";
        Assert.Equal("0=0 10=1 190=0 191=1 220=0", Story(Device("switch-4", stairs), 400, "10 tell output1.switch 1").Steps("output1.output"));
        // Told on again at 200, while it warns: anew until 380, off at 410.
        Assert.Equal("0=0 10=1 190=0 191=1 380=0 381=1 410=0", Story(Device("switch-4", stairs), 500, "10 tell output1.switch 1; 200 tell output1.switch 1").Steps("output1.output"));
        // The state does not tell the blink.
        Assert.Equal("0=0 10=1 220=0", Story(Device("switch-4", stairs), 400, "10 tell output1.switch 1").Sent("output1.state"));
    }

    [Fact]
    public void A_staircase_adds_up_to_its_limit_or_takes_no_notice()
    {
        // 60 s each: told at 0, 10 and 20 it ends at 180; a fourth one would pass 3 × 60 from its moment, 30 + 180 = 210.
        const string adds = Quiet + "output1.function=staircase; output1.staircase=60; output1.warning=0; output1.again=adds; output1.addsMost=3";
        Assert.Equal("0=0 1=1 181=0", Story(Device("switch-4", adds), 400, "1 tell output1.switch 1; 10 tell output1.switch 1; 20 tell output1.switch 1").Steps("output1.output"));
        Assert.Equal("0=0 1=1 210=0", Story(Device("switch-4", adds), 400, "1 tell output1.switch 1; 10 tell output1.switch 1; 20 tell output1.switch 1; 30 tell output1.switch 1").Steps("output1.output"));
        const string nothing = Quiet + "output1.function=staircase; output1.staircase=60; output1.warning=0; output1.again=nothing; output1.staircaseOff=no";
        Assert.Equal("0=0 1=1 61=0", Story(Device("switch-4", nothing), 400, "1 tell output1.switch 1; 30 tell output1.switch 1; 40 tell output1.switch 0").Steps("output1.output"));
    }

    [Fact]
    public void A_pulse_lasts_its_time_and_runs_on_after_an_off()
    {
        const string pulse = Quiet + "output1.function=pulse; output1.pulse=60; output1.runOn=40";
        Assert.Equal("0=0 5=1 65=0", Story(Device("switch-4", pulse), 300, "5 tell output1.switch 1").Steps("output1.output"));
        // Off at 15: 15 + 40 is before the end of the pulse, which holds. Off at 50: 50 + 40 = 90.
        Assert.Equal("0=0 5=1 65=0", Story(Device("switch-4", pulse), 300, "5 tell output1.switch 1; 15 tell output1.switch 0").Steps("output1.output"));
        Assert.Equal("0=0 5=1 90=0", Story(Device("switch-4", pulse), 300, "5 tell output1.switch 1; 50 tell output1.switch 0").Steps("output1.output"));
    }

    [Fact]
    public void Lock_and_force_stand_over_commands_the_force_over_the_lock()
    {
        const string all = Quiet + "output1.lock=yes; output1.locked=off; output1.forcing=yes";
        // Locked off at 10 though on; forced on at 20; free at 30: still locked, off; unlocked at 40: as told meanwhile at 35, on.
        StoryRun run = Story(Device("switch-4", all), 100, "5 tell output1.switch 1; 10 tell output1.lockIt 1; 20 tell output1.force 3; 30 tell output1.force 0; 33 tell output1.switch 0; 35 tell output1.switch 1; 40 tell output1.lockIt 0");
        Assert.Equal("0=0 5=1 10=0 20=1 30=0 40=1", run.Steps("output1.output"));
        Assert.Equal(("forced on", "output1.forcing"), run.Why("output1.output", 20));
        // What is to stay as it is stays off, whatever was told meanwhile.
        Assert.Equal("0=0 5=1 10=0", Story(Device("switch-4", all + "; output1.unlocked=keep"), 100, "5 tell output1.switch 1; 10 tell output1.lockIt 1; 20 tell output1.lockIt 0").Steps("output1.output"));
    }

    [Fact]
    public void Least_times_hold_whoever_commands()
    {
        // On at 5, told off at 6 and on again at 8 and off at 9: it stays on to 65, off for 30 at least: told on at 70 comes at 95.
        StoryRun run = Story(Device("switch-4", Quiet + "output1.leastOn=60; output1.leastOff=30; output1.forcing=yes"), 200,
            "35 tell output1.switch 1; 36 tell output1.switch 0; 38 tell output1.switch 1; 39 tell output1.force 2; 100 tell output1.force 0; 101 tell output1.switch 1");
        Assert.Equal("0=0 35=1 95=0 125=1", run.Steps("output1.output"));
    }

    [Fact]
    public void Scenes_are_recalled_and_stored()
    {
        const string scenes = Quiet + "output1.scenes=yes; output1.scene1=5; output1.scene1Is=on; output1.scene2=6";
        // Scene 5 is 4 on the bus: on. Then off, stored as 5 (128 + 4) at 20; on at 25; recalled at 30: off.
        Assert.Equal("0=0 5=1 15=0 25=1 30=0", Story(Device("switch-4", scenes), 60, "5 tell output1.scene 4; 15 tell output1.switch 0; 20 tell output1.scene 132; 25 tell output1.switch 1; 30 tell output1.scene 4").Steps("output1.output"));
        // The scene that decides is named, not the first.
        Assert.Equal(("scene", "output1.scene2Is"), Story(Device("switch-4", scenes + "; output1.scene2Is=on"), 60, "5 tell output1.scene 5").Why("output1.output", 5));
        // Number 7 is nobody's.
        Assert.Equal("0=0", Story(Device("switch-4", scenes), 60, "5 tell output1.scene 6").Steps("output1.output"));
    }

    [Fact]
    public void A_lost_bus_does_what_is_set_and_its_return_too()
    {
        const string loss = Quiet + "output1.busLoss=off; output1.busReturn=before; output2.busReturn=off; output3.function=staircase; output3.staircase=100; output3.warning=0";
        StoryRun run = Story(Device("switch-4", loss), 200, "5 tell output1.switch 1; 5 tell output2.switch 1; 5 tell output3.switch 1; 50 lose bus for 12");
        Assert.Equal("0=0 5=1 50=0 62=1", run.Steps("output1.output"));
        Assert.Equal("0=0 5=1 62=0", run.Steps("output2.output"));
        // The staircase begins anew at 62.
        Assert.Equal("0=0 5=1 162=0", run.Steps("output3.output"));
        Assert.Equal(("the bus is gone", "output1.busLoss"), run.Why("output1.output", 50));
    }

    [Fact]
    public void After_the_bus_has_come_back_it_is_quiet_for_its_delay()
    {
        StoryRun run = Story(Device("switch-4", "sendDelay=8; output1.busReturn=on"), 100, "20 lose bus for 10");
        Assert.Equal("0=0 30=1", run.Steps("output1.output"));
        Assert.Equal("8=0 38=1", run.Sent("output1.state"));
    }

    [Fact]
    public void A_valve_is_open_for_its_share_of_the_cycle()
    {
        // 40 % of 900 s: open 100 to 100 + … : told at 100 within the cycle from 0, so that 360 is its end; then each 900 for 360.
        const string valve = Quiet + "output1.function=valve; output1.cycle=900; output1.exerciseEvery=0; output1.valveWatch=0";
        Assert.Equal("0=0 100=1 360=0 900=1 1260=0 1800=1", Story(Device("switch-4", valve), 2000, "100 tell output1.demand 40").Steps("output1.output"));
        // More in the open part, less in the closed part.
        Assert.Equal("0=0 100=1 720=0 900=1", Story(Device("switch-4", valve), 1000, "100 tell output1.demand 40; 200 tell output1.demand 80").Steps("output1.output"));
        Assert.Equal("0=0 100=1 450=0", Story(Device("switch-4", valve), 800, "100 tell output1.demand 80; 450 tell output1.demand 20").Steps("output1.output"));
    }

    [Fact]
    public void A_valve_without_a_demand_takes_its_emergency_position_and_is_exercised()
    {
        const string watch = Quiet + "output1.function=valve; output1.cycle=1000; output1.exerciseEvery=0; output1.valveWatch=600; output1.valveEmergency=25";
        StoryRun run = Story(Device("switch-4", watch), 2500, "100 tell output1.demand 10; 2000 tell output1.demand 0");
        // 10 % of the cycle from 0 had passed at 100; at 700 it is late: 25 % of the cycle from 0 has passed; the next opens 1000 to 1250.
        Assert.Equal("0=0 1000=1 1250=0", run.Steps("output1.output"));
        Assert.Equal("700=1 2000=0", run.Sent("output1.demandFault"));
        Assert.Equal("0=0 86400=1 86700=0", Story(Device("switch-4", Quiet + "output1.function=valve; output1.valveWatch=0; output1.exerciseEvery=86400; output1.exerciseFor=300"), 90_000, "").Steps("output1.output"));
    }

    [Fact]
    public void Hours_cycles_and_energy_are_counted()
    {
        // On twice for half an hour each with 2000 W: 1 h, 2 cycles, 2000 Wh.
        StoryRun run = Story(Device("switch-4", Quiet + "output1.meter=yes; output1.watts=2000; output1.reportEvery=7200"), 7300, "100 tell output1.switch 1; 1900 tell output1.switch 0; 2000 tell output1.switch 1; 3800 tell output1.switch 0");
        Assert.Equal("7200=1", run.Sent("output1.hours"));
        Assert.Equal("7200=2", run.Sent("output1.cycles"));
        Assert.Equal("7200=2000", run.Sent("output1.energy"));
    }

    [Fact]
    public void Dimming_goes_at_its_pace_and_stops_where_it_is_told()
    {
        // 10 s for the whole: brighter by 100 % (step 1) from 10 for 3 s: 30 %.
        const string dim = Quiet + "output1.dimTime=10; output1.softOn=2; output1.softOff=4";
        StoryRun run = Story(Device("dim-4", dim), 100, "10 tell output1.dim 9; 13 tell output1.dim 8; 20 tell output1.value 80; 30 tell output1.switch 0");
        Assert.Equal(15, run.At("output1.level", 11.5), 6);
        Assert.Equal(30, run.At("output1.level", 15), 6);
        Assert.Equal(80, run.At("output1.level", 20), 6);
        // Off within 4 s: half way at 32.
        Assert.Equal(40, run.At("output1.level", 32), 6);
        Assert.Equal("0=0 10=1 34=0", run.Sent("output1.state"));
        Assert.Equal("0=0 13=30 20=80 34=0", run.Sent("output1.valueState"));
        // Darker by steps: 1/4 of the whole (step 3: 100/4) from 80 is 55.
        Assert.Equal(55, Story(Device("dim-4", dim), 60, "1 tell output1.value 80; 10 tell output1.dim 3").At("output1.level", 40), 6);
        // It ends at 1 % unless it may switch off.
        Assert.Equal(1, Story(Device("dim-4", dim), 60, "1 tell output1.value 30; 10 tell output1.dim 1").At("output1.level", 50), 6);
        Assert.Equal(0, Story(Device("dim-4", dim + "; output1.dimOff=yes"), 60, "1 tell output1.value 30; 10 tell output1.dim 1").At("output1.level", 50), 6);
        Assert.Equal(0, Story(Device("dim-4", dim + "; output1.dimOn=no"), 60, "10 tell output1.dim 9").At("output1.level", 50), 6);
    }

    [Fact]
    public void A_dimmed_staircase_warns_before_it_goes_off()
    {
        StoryRun run = Story(Device("dim-4", Quiet + "output1.function=staircase; output1.staircase=120; output1.warning=20; output1.warnAt=15; output1.softOn=0; output1.softOff=0; output1.night=yes; output1.nightAt=40"), 600, "10 tell output1.switch 1; 300 tell output1.nightIs 1; 310 tell output1.switch 1");
        Assert.Equal("0=0 10=100 130=15 150=0 310=40 430=15 450=0", run.Steps("output1.level"));
    }

    [Fact]
    public void What_the_lamp_gets_lies_on_its_curve_between_its_limits()
    {
        var stage = Device("dim-4", "output1.curve=square; output1.least=10; output1.most=90");
        var dimming = (LoftyWren.Core.Bus.Behaviours.DimmingBehaviour)new LoftyWren.Core.Bus.Devices.DeviceRunner(stage.Values, []).BehaviourOf(stage.Values.Form.ChannelAt("output1"))!;
        // 10 + 80 · (0.5)² = 30; at 100 % 90; at 0 nothing.
        Assert.Equal((0, 30, 90), (dimming.OutputAt(0), dimming.OutputAt(50), dimming.OutputAt(100)));
    }

    [Fact]
    public void Without_mains_it_is_dark_and_comes_back_as_set()
    {
        StoryRun run = Story(Device("dim-4", Quiet + "output1.softOn=0; output2.softOn=0; output2.mainsReturn=off"), 100, "5 tell output1.value 60; 5 tell output2.value 60; 20 lose mains for 10");
        Assert.Equal("0=0 5=60 20=0 30=60", run.Steps("output1.level"));
        Assert.Equal("0=0 5=60 20=0", run.Steps("output2.level"));
    }

    private const string Shutter = Quiet + "blind1.function=shutter; blind1.downTime=40; blind1.upTime=50; blind1.dead=0.2; blind1.pause=0.5; blind1.reserve=3; blind1.windWatch=0";

    [Fact]
    public void A_blind_runs_as_long_as_its_way_takes_and_pauses_before_it_turns_round()
    {
        // Up to know where it is: 0.2 + 50 + 3 from 1 to 54.2. Down to 50 %: 0.2 + 20 from 60 to 80.2. Up told at 80.4: the pause since 80.2 is over at 80.7; 0.2 + 25 + 3 → 108.9.
        StoryRun run = Story(Device("blind-4", Shutter), 200, "1 tell blind1.move 0; 60 tell blind1.position 50; 80.4 tell blind1.move 0");
        Assert.Equal("0=0 1=-1 54.2=0 60=1 80.2=0 80.7=-1 108.9=0", run.Steps("blind1.motor"));
        Assert.Equal(50, run.At("blind1.height", 80.2), 1);
        Assert.Equal(25, run.At("blind1.height", 70.2), 1);
        Assert.Equal("54.2=0 80.2=50 108.9=0", run.Sent("blind1.positionState"));
        Assert.Equal(("the pause is over", "blind1.pause"), run.Why("blind1.motor", 80.7));
    }

    [Fact]
    public void A_run_that_is_turned_round_stops_first()
    {
        // Down from 60; up told at 70 (25 % less the dead time's 0.2 s: 9.8/40): it rests from 70 to 70.5, then up.
        StoryRun run = Story(Device("blind-4", Shutter), 200, "1 tell blind1.move 0; 60 tell blind1.move 1; 70 tell blind1.move 0");
        // 24.5 % up takes 0.2 + 12.25 + 3.
        Assert.Equal("0=0 1=-1 54.2=0 60=1 70=0 70.5=-1 85.95=0", run.Steps("blind1.motor"));
    }

    [Fact]
    public void After_twenty_part_moves_the_position_is_what_was_asked_for_and_its_worth_is_said()
    {
        var events = new List<string> { "1 tell blind1.move 0" };
        for (int i = 0; i < 20; i++) events.Add($"{100 + (i * 60)} tell blind1.position {(i % 2 == 0 ? 60 : 30)}");
        StoryRun run = Story(Device("blind-4", Shutter + "; blind1.tolerance=0.05"), 1400, string.Join(';', events));
        Assert.Equal(30, run.At("blind1.height", 1390), 6);
        // 20 starts of 50 ms each against 40 s: 2.5 %.
        Assert.Equal(2.5, run.At("blind1.worth", 1390), 6);
        // With a reference run after 10: the eleventh goes up first, so that nine starts and the run to the end's none are left… the count begins at the end.
        StoryRun referenced = Story(Device("blind-4", Shutter + "; blind1.tolerance=0.05; blind1.referenceAfter=10"), 1400, string.Join(';', events));
        Assert.Contains("700=-1", referenced.Steps("blind1.motor"));
        Assert.Equal(60, referenced.At("blind1.height", 760 - 0.5), 1);
        Assert.Equal(100.0 * 10 * 0.05 / 40, referenced.At("blind1.worth", 1390), 6);
    }

    [Fact]
    public void Slats_turn_before_the_height_moves_and_back_afterwards()
    {
        // Up: 0.2 + slats 2 + 50 + 3 (unknown) from 1 to 56.2. Down to 50 with slats as before (open, 0): 0.2 + 2 + 20 = 22.2 from 60 to 82.2; pause to 82.7; slats from 100 to 0: 0.2 + 2 → 84.9.
        StoryRun run = Story(Device("blind-4", Shutter.Replace("shutter", "slats") + "; blind1.slatTime=2"), 200, "1 tell blind1.move 0; 60 tell blind1.position 50; 100 tell blind1.slat 40");
        Assert.Equal("0=0 1=-1 56.2=0 60=1 82.2=0 82.7=-1 84.9=0 100=1 101=0", run.Steps("blind1.motor"));
        Assert.Equal(50, run.At("blind1.height", 99), 6);
        Assert.Equal(0, run.At("blind1.slats", 99), 6);
        // 40 % down: 0.2 + 0.8.
        Assert.Equal(40, run.At("blind1.slats", 110), 6);
        Assert.Equal("56.2=0 84.9=50 101=50", run.Sent("blind1.positionState"));
    }

    [Fact]
    public void Near_the_ends_it_is_slower_and_the_times_still_add_up()
    {
        var travel = new LoftyWren.Core.Bus.Behaviours.Travel(10, 0.5);
        // Both ends of 10 % at half speed: 0.1/0.5 + 0.8 + 0.1/0.5 = 1.2 of the middle's time; so 10 % takes 1/6, the middle 2/3.
        Assert.Equal(1 / 6.0, travel.TimeTo(10), 9);
        Assert.Equal(0.5, travel.TimeTo(50), 9);
        Assert.Equal(5 / 6.0, travel.TimeTo(90), 9);
        for (double h = 0; h <= 100; h += 2.5) Assert.Equal(h, travel.HeightAfter(travel.TimeTo(h)), 9);
        // To 10 % of 40 s: 0.2 + 40/6.
        Assert.Contains("60=1 66.867=0", Story(Device("blind-4", Shutter + "; blind1.slowEnd=10; blind1.ratio=50"), 100, "1 tell blind1.move 0; 60 tell blind1.position 10").Steps("blind1.motor"));
    }

    [Fact]
    public void A_blind_stopped_by_hand_in_a_wind_alarm_stays_where_it_was_stopped()
    {
        // Down at 60: closed at 103.2. Wind at 120: up; stopped at 130 where that is allowed: 9.8 s of 50 → 80.4 %. Told down at 140: not done. Over at 200: it stays.
        const string told = "1 tell blind1.move 0; 60 tell blind1.move 1; 120 tell blind1.windAlarm 1; 130 tell blind1.stepIt 0; 140 tell blind1.move 1; 200 tell blind1.windAlarm 0";
        StoryRun stopped = Story(Device("blind-4", Shutter + "; blind1.stopInAlarm=yes"), 300, told);
        Assert.EndsWith("120=-1 130=0", stopped.Steps("blind1.motor"));
        Assert.Equal(80.4, stopped.At("blind1.height", 290), 6);
        // Where it is not allowed it goes on to the top: 0.2 + 50 + 3.
        Assert.EndsWith("120=-1 173.2=0", Story(Device("blind-4", Shutter), 300, told).Steps("blind1.motor"));
        // Afterwards back to where it was (100 %), or to where it was told meanwhile.
        Assert.EndsWith("173.2=0 200=1 243.2=0", Story(Device("blind-4", Shutter + "; blind1.after=before"), 300, told).Steps("blind1.motor"));
        Assert.EndsWith("173.2=0 200=1 243.2=0", Story(Device("blind-4", Shutter + "; blind1.after=follow"), 300, told).Steps("blind1.motor"));
        Assert.Equal("120=1 200=0", stopped.Sent("blind1.alarmState"));
    }

    [Fact]
    public void Of_several_alarms_the_lowest_rank_is_obeyed()
    {
        // Rain (rank 2) closes, wind (rank 1) opens: wind first; when it ends, rain's turn; then nothing.
        StoryRun run = Story(Device("blind-4", Shutter + "; blind1.rain=down"), 400, "1 tell blind1.move 0; 60 tell blind1.rainAlarm 1; 120 tell blind1.windAlarm 1; 200 tell blind1.windAlarm 0; 300 tell blind1.rainAlarm 0");
        Assert.Equal("0=0 1=-1 54.2=0 60=1 103.2=0 120=-1 173.2=0 200=1 243.2=0", run.Steps("blind1.motor"));
        Assert.Equal(("wind alarm", "blind1.wind"), run.Why("blind1.motor", 120));
    }

    [Fact]
    public void An_alarm_that_is_not_heard_counts_as_raised()
    {
        StoryRun run = Story(Device("blind-4", Shutter.Replace("windWatch=0", "windWatch=300")), 900, "1 tell blind1.move 0; 60 tell blind1.move 1; 100 tell blind1.windAlarm 0; 200 tell blind1.windAlarm 0; 700 tell blind1.windAlarm 0");
        Assert.Contains("103.2=0 500=-1 553.2=0", run.Steps("blind1.motor"));
        Assert.Equal("500=1 700=0", run.Sent("blind1.alarmState"));
    }

    [Fact]
    public void The_sun_moves_it_until_somebody_does()
    {
        const string sun = Shutter + "; blind1.sun=yes; blind1.sunHeight=50; blind1.handFor=600";
        StoryRun run = Story(Device("blind-4", sun), 2000, "1 tell blind1.move 0; 100 tell blind1.sunShines 1; 200 tell blind1.sunShines 0; 300 tell blind1.sunShines 1; 400 tell blind1.move 0; 450 tell blind1.sunHeightIs 80");
        // To 50 at 100, back up at 200, to 50 at 300, up by hand at 400; 600 later it follows again, to 80 %.
        Assert.Equal(50, run.At("blind1.height", 199), 1);
        Assert.Equal(0, run.At("blind1.height", 299), 1);
        Assert.Equal(0, run.At("blind1.height", 990), 1);
        Assert.Equal(80, run.At("blind1.height", 1999), 1);
        Assert.Equal(("the time by hand is over", "blind1.handFor"), run.Why("blind1.motor", 1001));
    }

    private const string Store = Quiet + "output1.sends=value; output1.threshold=0; output1.hold=180; output1.warning=20; output1.warnAt=15; output2.function=confirmed; output2.windows=2; output2.window=180; output2.runOn=480";

    /// <summary>
    /// The rule of the store: light on at presence, down to 15 % after 180 s without movement, off 20 s later, back to full on
    /// movement; the extract fan only when movement was seen in two windows of 180 s in a row, running on for 8 min.
    /// </summary>
    [Fact]
    public void The_rule_of_the_store()
    {
        // Movement 10 to 70; then 265 to 266, in the warning (70 + 180 = 250 to 270), and in the second window (190 to 370).
        StoryRun run = Story(Device("presence-6", Store), 1200, "10 sense movement 1 for 60; 265 sense movement 1 for 1");
        Assert.Equal("0=0 10=100 250=15 265=100 446=15 466=0", run.Steps("output1.value"));
        Assert.Equal("0=0 265=1 746=0", run.Steps("output2.switch"));
        Assert.Equal(("movement in so many windows in a row", "output2.windows"), run.Why("output2.switch", 265));
        // Seen once only: the light, not the fan. A third time beyond the second window begins anew.
        StoryRun once = Story(Device("presence-6", Store), 1200, "10 sense movement 1 for 5; 400 sense movement 1 for 5");
        Assert.Equal("0=0", once.Steps("output2.switch"));
        Assert.Equal("0=0 10=100 195=15 215=0 400=100 585=15 605=0", once.Steps("output1.value"));
        // Somebody who goes on moving is confirmed when the second window begins.
        Assert.Equal("0=0 190=1 1010=0", Story(Device("presence-6", Store), 1200, "10 sense movement 1 for 520").Steps("output2.switch"));
    }

    [Fact]
    public void Brightness_decides_whether_light_comes_on_and_when_it_goes()
    {
        const string light = Quiet + "output1.hold=100; output1.threshold=400; output1.hysteresis=50; output1.brightOff=yes";
        // Bright at 5: nothing; dark at 20 while somebody is there: on; bright at 40 beyond 450: off; dark at 60 within the hold time of the movement that ended at 50: on to 150.
        StoryRun run = Story(Device("presence-6", light), 400, "1 sense brightness 600; 5 sense movement 1 for 45; 20 sense brightness 300; 40 sense brightness 460; 60 sense brightness 200");
        Assert.Equal("0=0 20=1 40=0 60=1 150=0", run.Steps("output1.switch"));
        Assert.Equal("0=0 20=1 150=0", Story(Device("presence-6", light), 400, "1 sense brightness 600; 5 sense movement 1 for 45; 20 sense brightness 300; 40 sense brightness 449").Steps("output1.switch"));
    }

    [Fact]
    public void The_first_movement_may_only_wait_for_a_second()
    {
        const string first = Quiet + "output1.function=presence; output1.hold=60; output1.first=30";
        Assert.Equal("0=0 30=1 91=0", Story(Device("presence-6", first), 300, "10 sense movement 1 for 1; 30 sense movement 1 for 1").Steps("output1.switch"));
        Assert.Equal("0=0", Story(Device("presence-6", first), 300, "10 sense movement 1 for 1; 45 sense movement 1 for 1").Steps("output1.switch"));
    }

    [Fact]
    public void Half_automatic_comes_on_by_hand_and_off_by_hand_holds()
    {
        const string half = Quiet + "output1.function=presence; output1.hold=60; output1.how=half";
        Assert.Equal("0=0 20=1 110=0", Story(Device("presence-6", half), 300, "10 sense movement 1 for 5; 20 tell output1.hand 1; 40 sense movement 1 for 10").Steps("output1.switch"));
        // Off by hand at 30 while somebody moves until 100: it stays off until 160, then movement counts again.
        Assert.Equal("0=0 10=1 30=0 170=1 231=0", Story(Device("presence-6", Quiet + "output1.function=presence; output1.hold=60"), 400, "10 sense movement 1 for 10; 30 tell output1.hand 0; 50 sense movement 1 for 50; 170 sense movement 1 for 1").Steps("output1.switch"));
    }

    [Fact]
    public void A_side_detector_tells_the_main_one()
    {
        StoryRun run = Story([Device("presence-6", Quiet + "detector=side", "side", ("output1.movement", "1/0/1")), Device("presence-6", Quiet + "output1.function=presence; output1.hold=60", "main", ("output1.side", "1/0/1"))], 300, "10 sense movement@side 1 for 45");
        // Told at 10 and every 4 s while it moves, last at 54, each one telegram's time later: 202 + 15 + 13 − 2 bits … 20.3 ms.
        Assert.Equal(string.Join(' ', Enumerable.Range(0, 12).Select(i => $"{10 + (4 * i)}=1")), run.Sent("output1.movement", "side"));
        Assert.StartsWith("0=0 10.021=1 114.021=0", run.Steps("output1.switch", "main"));
    }

    [Fact]
    public void A_detector_does_not_take_what_it_sends_itself_for_somebodys_hand()
    {
        // Seen at 10 and 100, each time on for a minute; its own off at 71 is no hand that keeps it off.
        StoryRun run = Story(Device("presence-6", Quiet + "output1.function=presence; output1.hold=60", "d", ("output1.switch", "1/0/1"), ("output1.hand", "1/0/1")), 300, "10 sense movement 1 for 1; 100 sense movement 1 for 1");
        Assert.Equal("0=0 10=1 71=0 100=1 161=0", run.Steps("output1.switch"));
    }

    [Fact]
    public void A_main_detector_of_the_shortest_hold_time_stays_on_while_a_side_detector_sees_movement()
    {
        StoryRun run = Story([Device("presence-6", Quiet + "detector=side", "side", ("output1.movement", "1/0/1")), Device("presence-6", Quiet + "output1.function=presence; output1.hold=5", "main", ("output1.side", "1/0/1"))], 300, "10 sense movement@side 1 for 100; 51 lose bus@side for 1.5");
        // Lost from 51 to 52.5: told at 50, again at 52.5, and every 4 s until 108.5.
        Assert.Equal("0=0 10.021=1 113.521=0", run.Steps("output1.switch", "main"));
    }

    [Fact]
    public void Without_the_bus_nothing_is_heard_and_the_story_says_so()
    {
        StoryRun run = Story([Device("button-4", Quiet + "button1.debounce=0", "button", ("button1.switch", "1/0/1")), Device("switch-4", Quiet, "actuator", ("output1.switch", "1/0/1"))], 60, "5 lose bus@actuator for 20; 10 sense button1.contact@button 1 for 0.2; 40 sense button1.contact@button 1 for 0.2");
        Assert.Equal("40.021=0", run.Steps("output1.switch", "actuator"));
        Assert.Equal("0=0", run.Steps("output1.output", "actuator"));
    }

    [Fact]
    public void In_test_mode_times_are_short_and_brightness_does_not_count()
    {
        Assert.Equal("0=0 10=1 16=0", Story(Device("presence-6", Quiet + "testMode=yes"), 60, "1 sense brightness 900; 10 sense movement 1 for 1").Steps("output1.switch"));
    }

    [Fact]
    public void A_button_knows_short_from_long()
    {
        const string dim = Quiet + "button1.function=dim; button1.longPress=0.4; button1.debounce=0";
        StoryRun run = Story(Device("button-4", dim), 60, "5 sense button1.contact 1 for 0.2; 10 sense button1.contact 1 for 2; 20 sense button1.contact 1 for 1; 30 sense button1.contact 1 for 0.399");
        // Short: on at its release. Long: brighter at 10.4 would be darker, since it is on… in turn: darker, stop; brighter, stop.
        Assert.Equal("5.2=1 30.399=0", run.Sent("button1.switch"));
        Assert.Equal("10.4=1 12=0 20.4=9 21=8", run.Sent("button1.dim"));
    }

    [Fact]
    public void Buttons_for_blinds_scenes_values_and_two_levels()
    {
        const string all = Quiet + "button1.function=blind; button1.debounce=0; button2.function=scene; button2.sceneNumber=5; button2.stores=yes; button2.debounce=0; button3.function=value; button3.hasLong=yes; button3.longValue=20; button3.debounce=0; button4.function=level; button4.debounce=0";
        StoryRun run = Story(Device("button-4", all), 60, "5 sense button1.contact 1 for 1; 10 sense button1.contact 1 for 0.1; 15 sense button1.contact 1 for 1; 20 sense button2.contact 1 for 0.1; 25 sense button2.contact 1 for 3; 30 sense button3.contact 1 for 0.1; 35 sense button3.contact 1 for 1; 40 sense button4.contact 1 for 0.1; 45 sense button4.contact 1 for 1");
        Assert.Equal("5.4=0 15.4=1", run.Sent("button1.move"));
        Assert.Equal("10.1=0", run.Sent("button1.stepIt"));
        Assert.Equal("20.1=4 25.4=132", run.Sent("button2.scene"));
        Assert.Equal("30.1=100 35.4=20", run.Sent("button3.value"));
        Assert.Equal("40.1=1", run.Sent("button4.switch"));
        Assert.Equal("45.4=1", run.Sent("button4.second"));
    }

    [Fact]
    public void A_contact_that_bounces_counts_once_it_is_quiet()
    {
        StoryRun run = Story(Device("binary-8", Quiet + "input1.debounce=0.05; input2.function=count; input2.countEvery=2; input2.debounce=0"), 60,
            "5 sense input1.contact 1 for 0.01; 5.02 sense input1.contact 1 for 0.01; 5.04 sense input1.contact 1; 10 sense input2.contact 1 for 1; 12 sense input2.contact 1 for 1; 14 sense input2.contact 1 for 1; 16 sense input2.contact 1 for 1");
        Assert.Equal("0=0 5.09=1", run.Sent("input1.switch"));
        Assert.Equal("12=2 16=4", run.Sent("input2.count"));
    }

    [Fact]
    public void An_analog_input_says_what_has_moved_and_watches_its_threshold()
    {
        const string analog = Quiet + "input1.low=0; input1.high=50; input1.change=1; input1.every=100; input1.threshold1=yes; input1.limit1=25; input1.hysteresis=2";
        // 40 % is 20; 42 % is 21 (moved by 1); 51 % is 25.5: above; 47 % is 23.5, within the hysteresis; 45 % is 22.5: below.
        StoryRun run = Story(Device("analog-4", analog), 150, "1 sense input1.signal 40; 101 sense input1.signal 41; 110 sense input1.signal 42; 120 sense input1.signal 51; 130 sense input1.signal 47; 140 sense input1.signal 45");
        Assert.Equal("100=20 110=21 120=25.5 130=23.5 140=22.5", run.Sent("input1.value"));
        Assert.Equal("120=1 140=0", run.Sent("input1.first"));
    }

    [Fact]
    public void A_weather_output_is_raised_after_its_delay_and_over_after_another()
    {
        const string wind = Quiet + "output1.of=wind; output1.windLimit=10; output1.hysteresis=20; output1.onDelay=4; output1.offDelay=60; output1.every=0; output2.of=frost; output2.coldLimit=3; output2.onDelay=0; output2.offDelay=10; output2.every=0";
        // 12 m/s for 3 s: nothing. From 20 on: raised at 24. 9 m/s is within the hysteresis (8); 7 m/s at 50, once interrupted at 80: over at 90 + 60.
        StoryRun run = Story(Device("weather-1", wind), 300, "10 sense wind 12 for 3; 20 sense wind 12; 40 sense wind 9; 50 sense wind 7; 80 sense wind 11; 90 sense wind 7; 100 sense temperature 2; 120 sense temperature 3.5; 150 sense temperature 4.5");
        Assert.Equal("0=0 24=1 150=0", run.Sent("output1.alarm"));
        Assert.Equal("0=0 100=1 160=0", run.Sent("output2.alarm"));
    }

    [Fact]
    public void Functions_combine_delay_compare_and_calculate()
    {
        const string functions = "function1.function=logic; function1.inputs=3; function1.invertC=yes; function2.function=timer; function2.timer=off; function2.time=20; function3.function=comparison; function3.limit=20; function3.hysteresis=1; function4.function=calculation; function4.calculation=mean; function5.function=logic; function5.logic=gate";
        StoryRun run = Story(Device("switch-4", Quiet + functions), 100,
            "1 tell function1.a 1; 2 tell function1.b 1; 3 tell function1.c 1; 5 tell function2.a 1; 10 tell function2.a 0; 12 tell function2.a 1; 15 tell function2.a 0; 20 tell function3.numberA 20.5; 21 tell function3.numberA 19.5; 22 tell function3.numberA 18.5; 30 tell function4.numberA 10; 31 tell function4.numberB 20; 40 tell function5.a 1; 41 tell function5.b 1; 42 tell function5.a 1; 43 tell function5.b 0; 44 tell function5.a 0");
        Assert.Equal("1=0 2=1 3=0", run.Sent("function1.out"));
        Assert.Equal("5=1 35=0", run.Sent("function2.out"));
        Assert.Equal("20=1 22=0", run.Sent("function3.out"));
        Assert.Equal("31=15", run.Sent("function4.numberOut"));
        Assert.Equal("41=1", run.Sent("function5.out"));
    }

    [Fact]
    public void A_fan_coil_starts_its_fan_with_a_kick_and_holds_its_stages()
    {
        const string coil = Quiet + "room1.system=heating; room1.comfort=21; room1.startMode=comfort; room1.heatBand=4; room1.heatReset=0; room1.threshold1=5; room1.threshold2=40; room1.threshold3=75; room1.hysteresis=4; room1.stageFor=60; room1.kickStage=2; room1.kickFor=5";
        // 20 °C: 1 K below asks for 25 %: stage 1, started at 2 for 5 s. 19.4 at 100: 40 %, stage 2 at the next look at 110. 19.5 at 125: 37.5 % stays by the hysteresis. 20.6 at 135: 10 %: stage 1, but stage 2 stays until 170.
        StoryRun run = Story(Device("fan-coil-1", coil), 400, "0 sense temperature 20; 101 sense temperature 19.4; 125 sense temperature 19.5; 135 sense temperature 20.6; 300 sense temperature 22");
        Assert.Equal("0=2 5=1 110=2 170=1 300=0", run.Steps("room1.fanStage"));
        Assert.Equal(25, run.At("room1.heatValve", 50), 6);
        Assert.Equal(0, run.At("room1.heatValve", 350), 6);
        Assert.Equal(0, run.At("room1.coolValve", 350), 6);
    }

    // Told 50 %: the valve stands there and, past the threshold of 40 %, the second stage runs at once (from rest, and no more is
    // wanted for the start). Not released it closes and rests, the stage having stayed for its 60 s; released again it goes on, until
    // 600 s after what it was told last, when it looks next.
    [Fact]
    public void A_fan_coil_does_as_it_is_told_while_it_is_told_and_released()
    {
        const string told = Quiet + "room1.demandIs=told; room1.demandWatch=600; room1.stages=2; room1.stageFor=60";
        StoryRun run = Story(Device("fan-coil-1", told), 900, "0 sense temperature 15; 10 tell room1.heatDemand 50; 100 tell room1.release 0; 200 tell room1.release 1");
        Assert.Equal("0=0 10=50 100=0 200=50 610=0", run.Steps("room1.heatValve"));
        Assert.Equal("10=2 100=0 200=2 610=0", run.Steps("room1.fanStage"));
        Assert.Equal((100, 0), (run.At("room1.fanSpeed", 50), run.At("room1.fanSpeed", 700)));
        // Moving the air all the while: at its least speed of 40 % without a demand, and from there 60 % · (52.5 − 5) / 95 = 30 % more at 52.5 %.
        StoryRun airs = Story(Device("fan-coil-1", Quiet + "room1.demandIs=told; room1.fanRuns=released; room1.fan=volts; room1.fanLeast=40; room1.threshold1=5"), 200, "0 sense temperature 15; 50 tell room1.heatDemand 52.5; 100 tell room1.release 0");
        Assert.Equal((40, 70, 0), (Math.Round(airs.At("room1.fanSpeed", 20)), Math.Round(airs.At("room1.fanSpeed", 60)), airs.At("room1.fanSpeed", 120)));
    }

    [Fact]
    public void Two_pipes_only_do_what_their_water_is_for_and_a_dew_point_closes_cooling()
    {
        const string two = Quiet + "room1.pipes=two; room1.comfort=21; room1.deadZone=2; room1.startMode=comfort; room1.heatBand=4; room1.heatReset=0; room1.coolBand=4; room1.coolReset=0";
        // 25 °C is 2 K above 23: 50 % cooling, once the water has changed over at 60; dripping at 120.
        StoryRun run = Story(Device("fan-coil-1", two), 300, "0 sense temperature 25; 60 tell room1.water 0; 120 tell room1.dew 1; 180 tell room1.dew 0; 240 tell room1.water 1");
        Assert.Equal("0=0 60=50 120=0 180=50 240=0", run.Steps("room1.coolValve"));
        Assert.Equal("0=0", run.Steps("room1.heatValve"));
    }

    [Fact]
    public void The_mode_in_force_is_that_of_the_highest_source()
    {
        const string room = Quiet + "room1.system=heating; room1.comfort=21; room1.standbyBy=2; room1.economyBy=4; room1.frost=7; room1.presenceCounts=yes; room1.prolong=100; room1.heatReset=0; room1.answer=percent";
        StoryRun run = Story(Device("room-1", room), 800, "0 sense temperature 18; 50 tell room1.mode 3; 100 tell room1.presence 1; 150 tell room1.presence 0; 200 tell room1.prolongIt 1; 350 tell room1.forcedMode 2; 400 tell room1.window 1; 450 tell room1.window 0; 500 tell room1.forcedMode 0; 550 tell room1.shift 1; 600 tell room1.mode 1");
        // Standby until told, economy, comfort by presence, economy, prolonged comfort to 300, economy, forced standby, window, forced standby, economy, comfort with a shift.
        Assert.Equal("0=2 50=3 100=1 150=3 200=1 300=3 350=2 400=4 450=2 500=3 600=1", run.Sent("room1.modeState"));
        Assert.Equal("0=19 50=17 100=21 150=17 200=21 300=17 350=19 400=7 450=19 500=17 550=18 600=22", run.Sent("room1.setpointState"));
        // 3 K below 21 over a band of 4 K: 75 %.
        Assert.Equal(75, run.At("room1.heatValue", 120), 6);
    }

    [Fact]
    public void A_room_is_regulated_by_two_points_or_by_pulses()
    {
        const string binary = Quiet + "room1.system=heating; room1.startMode=comfort; room1.comfort=21; room1.answer=binary; room1.hysteresis=1";
        Assert.Equal("0=1 60=0 120=1", Story(Device("room-1", binary), 200, "0 sense temperature 20.4; 30 sense temperature 21.2; 55 sense temperature 21.6; 90 sense temperature 20.6; 115 sense temperature 20.4").Sent("room1.heatOn"));
        // 1 K below over 4 K: 25 % of 600 s.
        const string pulses = Quiet + "room1.system=heating; room1.startMode=comfort; room1.comfort=21; room1.answer=pulses; room1.cycle=600; room1.heatBand=4; room1.heatReset=0";
        Assert.Equal("0=1 150=0 600=1 750=0", Story(Device("room-1", pulses), 900, "0 sense temperature 20").Sent("room1.heatOn"));
    }

    // With all settings as they begin nobody takes what is steady for lost: on a summer's day nothing is asked for from morning to
    // night, and a valve that expects a demand every hour stays closed instead of going to the 25 % of a lost one.
    [Theory]
    [InlineData("percent", 26, 0)]
    [InlineData("percent", 10, 100)]
    [InlineData("binary", 26, 0)]
    [InlineData("binary", 10, 100)]
    [InlineData("pulses", 26, 0)]
    [InlineData("pulses", 10, 100)]
    public void What_is_steady_is_said_again_before_it_is_missed(string answer, double celsius, double asked)
    {
        bool isPercent = answer == "percent";
        StagedDevice valve = Device("switch-4", $"output1.function=valve; output1.exerciseEvery=0; output1.valveSignal={(isPercent ? "percent" : "binary")}", "valve", (isPercent ? "output1.demand" : "output1.switch", "1/0/1"));
        StagedDevice coil = Device("fan-coil-1", "room1.source=bus", "coil", ("room1.temperature", "1/0/2"));
        StoryRun Day(string more) => Story([Device("room-1", $"room1.system=heating; room1.startMode=comfort; room1.answer={answer}; {more}", "room", (isPercent ? "room1.heatValue" : "room1.heatOn", "1/0/1"), ("room1.temperatureState", "1/0/2")), valve, coil], 5 * 3600, $"0 sense temperature@room {celsius}");
        StoryRun day = Day("");
        Assert.Equal(("", ""), (day.Sent("output1.demandFault", "valve"), day.Sent("room1.lost", "coil")));
        for (int at = 1200; at < 5 * 3600; at += 600) Assert.Equal(asked, day.At("output1.demandState", at), 6);
        // Said only when it is another, it is missed after the hour; the temperature after its 1800 s.
        StoryRun silent = Day("room1.answerEvery=0; room1.measuredEvery=0");
        Assert.Matches("^3[67][0-9.]+=1$", silent.Sent("output1.demandFault", "valve"));
        Assert.Matches("^18[0-9.]+=1$", silent.Sent("room1.lost", "coil"));
    }

    [Fact]
    public void The_loss_of_one_temperature_leaves_the_other()
    {
        const string both = Quiet + "room1.system=heating; room1.startMode=comfort; room1.comfort=21; room1.source=both; room1.weight=50; room1.watch=300; room1.heatBand=4; room1.heatReset=0; room1.answer=percent";
        // Its own 20, the bus 18: 19, 50 %. The bus is lost at 350: 20, 25 %.
        StoryRun run = Story(Device("room-1", both), 600, "0 sense temperature 20; 50 tell room1.temperature 18");
        Assert.Equal(50, run.At("room1.heatValue", 200), 6);
        Assert.Equal(25, run.At("room1.heatValue", 500), 6);
        Assert.Equal("350=1", run.Sent("room1.lost"));
    }

    [Fact]
    public void The_sum_of_a_loop_grows_by_its_error_and_does_not_run_away()
    {
        // e = 1 K, band 4 K: 25 %; reset 1000 s: after 1000 s 25 % more.
        const string loop = Quiet + "room1.system=heating; room1.startMode=comfort; room1.comfort=21; room1.heatBand=4; room1.heatReset=1000; room1.answer=percent";
        StoryRun run = Story(Device("room-1", loop), 4000, "0 sense temperature 20; 3990 sense temperature 21");
        Assert.Equal(50, run.At("room1.heatValue", 1000), 6);
        Assert.Equal(100, run.At("room1.heatValue", 3980), 6);
        // What it summed up, 75 %, is all that is left at the setpoint.
        Assert.Equal(75, run.At("room1.heatValue", 3999), 6);
    }
}
