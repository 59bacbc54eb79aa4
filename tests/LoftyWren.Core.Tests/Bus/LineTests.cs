using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>
/// Two-wire lines against ISO/IEC 14543-3-6: forms of telegrams, how long they take, who goes first, what is repeated. A bit
/// lasts 1/9600 s; an octet takes 13 of them; a telegram of 9 octets with 15 bits' pause and an acknowledgement 117 + 15 + 13
/// = 145 bits = 15 104 µs.
/// </summary>
public sealed class LineTests
{
    /// <summary>A station that takes what is to its groups or to it, and writes down what it hears and what became of what it sent.</summary>
    private sealed class Station(TwoWireLine line, int number, params int[] groups) : ILineStation
    {
        public string Key => $"s{number}";

        public bool IsAlive { get; set; } = true;

        public IndividualAddress Address { get; } = IndividualAddress.Of(1, 1, number);

        public Queue<LineAnswer> Answers { get; } = new();

        public List<string> Log { get; } = [];

        public LineAnswer Answer(BusFrame frame) => Answers.TryDequeue(out LineAnswer next) ? next : (frame.IsToGroup ? frame.IsBroadcast || Array.IndexOf(groups, frame.To) >= 0 : frame.Device == Address) ? LineAnswer.Taken : LineAnswer.None;

        public void Hear(long microseconds, BusFrame frame) => Log.Add($"{microseconds} heard {frame.From}{(frame.IsRepeated ? " again" : "")}");

        public void Sent(long microseconds, BusFrame frame, bool isTaken) => Log.Add($"{microseconds} {(isTaken ? "taken" : "lost")}");

        public void Say(int group, BusPriority priority, long at) => line.Want(this, BusFrame.OfGroup(BusService.GroupWrite, new((ushort)group), [1], 1, priority) with { From = Address }, at);
    }

    private static (TwoWireLine Line, Station[] Stations) With(int count, params int[] groups)
    {
        var line = new TwoWireLine();
        Station[] stations = [.. Enumerable.Range(1, count).Select(n => new Station(line, n, groups))];
        foreach (Station station in stations) line.Attach(station);
        return (line, stations);
    }

    private static void RunAll(TwoWireLine line, int most = 10_000)
    {
        for (int i = 0; line.NextDue < long.MaxValue; i++)
        {
            Assert.True(i < most, "the line never comes to rest");
            line.Step();
        }
    }

    // By hand: control 10 1 1 11 00 = BC; from 1.1.5; to group 1/1/1; group bit, 6 hops, length 1 = E1; write with value 1;
    // the check makes each column odd: BC^11^05^09^01^E1^00^81 = C0, and its complement is 3F.
    [Fact]
    public void A_telegram_is_coded_as_the_standard_says()
    {
        BusFrame on = BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 1, 1), [1], 1) with { From = IndividualAddress.Of(1, 1, 5) };
        Assert.Equal("BC11050901E100813F", Convert.ToHexString(on.ToOctets()));
        // Repeated: bit 5 of the control is 0, and the check with it.
        Assert.Equal("9C11050901E100811F", Convert.ToHexString((on with { IsRepeated = true }).ToOctets()));
        // To an interface: request, nothing added, control BC, group and hops E0, length 1.
        Assert.Equal("1100BCE0110509010100" + "81", Convert.ToHexString(on.ToMessage(MessageCode.Request)));
        // A temperature of two octets is no part of the head: length 3.
        Assert.Equal("BC11050A00E300800C1A", Convert.ToHexString((BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 2, 0), [0x0C, 0x1A], 16) with { From = IndividualAddress.Of(1, 1, 5) }).ToOctets()[..10]));
    }

    [Fact]
    public void Whatever_is_written_is_read_back_in_every_form()
    {
        var random = new Random(14);
        for (int i = 0; i < 2000; i++)
        {
            byte[] unit = new byte[random.Next(1, i % 2 == 0 ? 17 : 256)];
            random.NextBytes(unit);
            var frame = new BusFrame { From = new((ushort)random.Next(65536)), To = (ushort)random.Next(65536), IsToGroup = random.Next(2) == 0, Priority = (BusPriority)random.Next(4), Hops = random.Next(8), IsRepeated = random.Next(2) == 0, Unit = unit };
            byte[] octets = frame.ToOctets();
            Assert.Equal(frame.Octets, octets.Length);
            BusFrame back = BusFrame.FromOctets(octets)!, message = BusFrame.FromMessage(frame.ToMessage(MessageCode.Indication))!.Value.Frame;
            foreach (BusFrame read in new[] { back, message }) Assert.Equal((frame with { Unit = read.Unit }, Convert.ToHexString(unit)), (read, Convert.ToHexString(read.Unit)));
            // One wrong bit is always noticed.
            octets[random.Next(octets.Length)] ^= (byte)(1 << random.Next(8));
            Assert.Null(BusFrame.FromOctets(octets));
        }
    }

    [Fact]
    public void A_telegram_takes_its_time_and_the_next_waits_until_the_line_has_been_free()
    {
        var (line, s) = With(3, 7);
        s[0].Say(7, BusPriority.Low, 1_000_000);
        s[1].Say(7, BusPriority.Low, 1_003_000);
        RunAll(line);
        // 15 104 µs, then 53 free bits (5 521 µs), and again.
        Assert.Equal(["1015104 heard 1.1.1", "1035729 heard 1.1.2"], s[2].Log);
        Assert.Equal(["1015104 taken", "1035729 heard 1.1.2"], s[0].Log);
        Assert.Equal(2 * 15_104, line.BusyMicroseconds);
    }

    [Fact]
    public void The_more_urgent_goes_first_and_among_equals_whose_address_has_a_zero_first()
    {
        var (line, s) = With(6, 7);
        // All begin within the same bit. Octets go with their low bit first: of 0000 0001 and 0000 0010 the second begins with a 0.
        s[0].Say(7, BusPriority.Low, 0);
        s[1].Say(7, BusPriority.Low, 50);
        s[2].Say(7, BusPriority.Normal, 0);
        s[3].Say(7, BusPriority.Urgent, 0);
        s[4].Say(7, BusPriority.System, 0);
        RunAll(line);
        Assert.Equal(["1.1.5", "1.1.4", "1.1.3", "1.1.2", "1.1.1"], s[5].Log.Select(l => l.Split(' ')[2]));
    }

    [Fact]
    public void What_nobody_takes_is_said_four_times_and_what_somebody_is_too_busy_for_waits_longer()
    {
        var (line, s) = With(2, 7);
        s[0].Say(8, BusPriority.Low, 0);
        RunAll(line);
        // Three repetitions, each 50 free bits (5 208 µs) after the one before: 4 · 15 104 + 3 · 5 208 = 76 040.
        Assert.Equal(["76040 lost"], s[0].Log);
        // Who was not concerned heard it once.
        Assert.Equal(["15104 heard 1.1.1"], s[1].Log);
        var (again, b) = With(2, 7);
        b[1].Answers.Enqueue(LineAnswer.Busy);
        b[0].Say(7, BusPriority.Low, 0);
        RunAll(again);
        // 150 bits (15 625 µs) after the first: 15 104 + 15 625 + 15 104.
        Assert.Equal(["45833 taken"], b[0].Log);
        Assert.Equal(["45833 heard 1.1.1 again"], b[1].Log);
    }

    [Fact]
    public void One_who_has_it_is_not_told_again_when_it_is_repeated_for_another()
    {
        var (line, s) = With(3, 7);
        s[2].Answers.Enqueue(LineAnswer.Busy);
        s[0].Say(7, BusPriority.Low, 0);
        RunAll(line);
        Assert.Single(s[1].Log);
        Assert.Equal(["45833 heard 1.1.1 again"], s[2].Log);
    }

    [Fact]
    public void What_is_spoilt_on_the_way_is_repeated_at_once_and_heard_by_nobody_meanwhile()
    {
        var (line, s) = With(2, 7);
        int spoilt = 0;
        line.Spoils = _ => spoilt++ < 2;
        s[0].Say(7, BusPriority.Low, 0);
        RunAll(line);
        Assert.Equal(["55728 heard 1.1.1 again"], s[1].Log);
        Assert.Equal(["55728 taken"], s[0].Log);
    }

    /// <summary>Law: whatever is wanted, each wish is carried once, never two at a time, and keeping the line at any moment and taking it up again changes nothing.</summary>
    [Fact]
    public void However_much_is_wanted_nothing_is_lost_and_a_restart_changes_nothing()
    {
        for (int seed = 0; seed < 40; seed++)
        {
            List<string> whole = Told(seed, -1);
            Assert.Equal(whole, Told(seed, new Random(seed).Next(1, 60)));
        }

        static List<string> Told(int seed, int keepAt)
        {
            var random = new Random(seed);
            var (line, stations) = With(8, 1, 2, 3);
            var moments = new List<LineMoment>();
            line.Watcher = moments.Add;
            int noise = 0;
            line.Spoils = _ => (noise++ * 7 % 11) == 0;
            for (int i = 0; i < 80; i++) stations[random.Next(8)].Say(random.Next(1, 4), (BusPriority)random.Next(4), random.Next(2_000_000));
            for (int step = 0; line.NextDue < long.MaxValue; step++)
            {
                if (step == keepAt)
                {
                    var kept = System.Text.Json.JsonSerializer.Deserialize<TwoWireMemory>(System.Text.Json.JsonSerializer.Serialize(line.Remember()))!;
                    line.Recall(kept);
                }
                line.Step();
            }
            Assert.Equal(80, stations.Sum(s => s.Log.Count(l => l.EndsWith("taken", StringComparison.Ordinal) || l.EndsWith("lost", StringComparison.Ordinal))));
            for (int i = 1; i < moments.Count; i++) Assert.True(moments[i].From >= moments[i - 1].Until + FrameTime.OfBits(FrameTime.IdleBits), "two at a time");
            return [.. stations.SelectMany(s => s.Log)];
        }
    }

    [Fact]
    public void A_coupler_lets_through_what_leads_to_the_other_side_and_takes_a_hop_off()
    {
        var (below, low) = With(2, 7, 8, 9);
        var above = new TwoWireLine();
        var up = new Station(above, 99, 7, 8, 9);
        above.Attach(up);
        var heard = new List<BusFrame>();
        above.Watcher = m => heard.Add(m.Frame);
        var coupler = new LineCoupler("c", below, above, () => true, () => IndividualAddress.Of(1, 1, 0), () => CouplerSettings.Delivered with { Table = new HashSet<GroupNumber> { new(7) } });
        void All()
        {
            while (Math.Min(below.NextDue, above.NextDue) < long.MaxValue) (below.NextDue <= above.NextDue ? below : above).Step();
        }
        low[0].Say(7, BusPriority.Low, 0);
        low[0].Say(8, BusPriority.Low, 0);
        All();
        Assert.Equal([(7, 5)], heard.Select(f => ((int)f.To, f.Hops)));
        heard.Clear();
        // To a device: 1.1.x is below, everything else above; the address of the sender stays.
        below.Want(low[0], BusFrame.ToDevice(IndividualAddress.Of(1, 1, 2), BusFrame.Say(BusService.DescriptorRead, [])) with { From = low[0].Address }, 1_000_000);
        below.Want(low[0], BusFrame.ToDevice(IndividualAddress.Of(1, 1, 99), BusFrame.Say(BusService.DescriptorRead, [])) with { From = low[0].Address }, 1_000_000);
        below.Want(low[0], BusFrame.ToDevice(IndividualAddress.Of(1, 2, 3), BusFrame.Say(BusService.DescriptorRead, [])) with { From = low[0].Address, Hops = 0 }, 1_000_000);
        below.Want(low[0], BusFrame.ToDevice(IndividualAddress.Of(1, 2, 4), BusFrame.Say(BusService.DescriptorRead, [])) with { From = low[0].Address }, 1_000_000);
        below.Want(low[0], BusFrame.ToAll(BusFrame.Say(BusService.AddressRead, [])) with { From = low[0].Address, Hops = 7 }, 2_000_000);
        All();
        // The one to 1.2.4 is tried four times up there, since nobody is; a broadcast of any hops keeps them.
        Assert.Equal(["1.2.4 5", "1.2.4 5", "1.2.4 5", "1.2.4 5", "0.0.0 7"], heard.Select(f => $"{f.Device} {f.Hops}"));
        Assert.Equal((3, 1), (coupler.Passed, coupler.Lost));
    }

    [Fact]
    public void A_coupler_that_holds_all_it_can_is_busy_and_loses_nothing_that_is_repeated_in_time()
    {
        var (below, low) = With(1, 7);
        var above = new TwoWireLine();
        var up = new Station(above, 99, 7);
        above.Attach(up);
        _ = new LineCoupler("c", below, above, () => true, () => IndividualAddress.Of(1, 1, 0), () => CouplerSettings.Delivered);
        above.IsFed = false;
        for (int i = 0; i < LineCoupler.MostWaiting + 1; i++) low[0].Say(7, BusPriority.Low, 0);
        while (below.NextDue < long.MaxValue) below.Step();
        Assert.Equal(LineCoupler.MostWaiting, low[0].Log.Count(l => l.EndsWith("taken", StringComparison.Ordinal)));
        Assert.Single(low[0].Log, l => l.EndsWith("lost", StringComparison.Ordinal));
        above.IsFed = true;
        RunAll(above);
        Assert.Equal(LineCoupler.MostWaiting, up.Log.Count);
    }
}
