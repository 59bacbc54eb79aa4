using LoftyWren.Core.Devices;
using LoftyWren.Core.Records;
using LoftyWren.VirtualSite.Media;
using LoftyWren.VirtualSite.Plant;

namespace LoftyWren.VirtualSite.Tests.Media;

/// <summary>Lines that carry messages: when each arrives, by hand from bits and bit rates, and what faults do.</summary>
public class LineTests
{
    /// <summary>Three on a line, with all that each hears.</summary>
    private sealed class Three
    {
        private readonly Site _site;
        private readonly Line _line;
        private readonly Dictionary<string, (MessagePort Port, IConnection Connection)> _ports = [];

        public Three(string carrier, params MediumFault[] faults)
        {
            _site = new Site(new SitePlan { MediumFaults = faults }, 0);
            _line = new Line(LineSort.All.Single(s => s.Key == carrier), _site);
            foreach (string name in new[] { "a", "b", "c" })
            {
                var port = new MessagePort(carrier, name, (at, telegram) => Heard.Add((at, name, telegram.From, telegram.Body.Length)));
                _ports[name] = (port, _line.Connect(new RecordId(name), port));
            }
        }

        public List<(long At, string By, string From, int Length)> Heard { get; } = [];

        public List<RecordId> Woken { get; } = [];

        public void Say(long at, string from, string? to, int length)
        {
            _ports[from].Port.Say(to, new byte[length]);
            _ports[from].Connection.AfterRun(at);
        }

        public void RunAll()
        {
            while (_line.NextDue < long.MaxValue) _line.Run(_line.NextDue, Woken.Add);
        }

        public object? Remember() => _line.Remember()();

        public void Recall(object? memory) => _line.Recall(memory);
    }

    // 6 octets and 8 more of 11 bits are 154 bits: at 38 400 bit/s 4.01 ms, so 5; one more to travel. The second waits for the first.
    // On IP both go at once: 1 ms at least, and 2 to travel.
    [Theory]
    [InlineData(Carriers.Trunk, 6, 6, 11)]
    [InlineData(Carriers.Ip, 6, 3, 3)]
    public void Messages_take_their_time_and_where_one_goes_at_a_time_they_wait(string carrier, int length, long first, long second)
    {
        var three = new Three(carrier);
        three.Say(0, "a", "c", length);
        three.Say(0, "b", "c", length);
        three.RunAll();
        Assert.Equal([(first, "c", "a", length), (second, "c", "b", length)], three.Heard);
        Assert.Equal([new("c"), new("c")], three.Woken);
    }

    [Fact]
    public void What_is_said_to_all_is_heard_by_all_others_and_what_is_said_to_nobody_there_by_nobody()
    {
        var three = new Three(Carriers.Trunk);
        three.Say(100, "b", null, 6);
        three.Say(100, "b", "elsewhere", 6);
        three.RunAll();
        Assert.Equal([(106, "a", "b", 6), (106, "c", "b", 6)], three.Heard);
    }

    [Fact]
    public void A_cut_end_neither_says_nor_hears_but_what_is_lost_on_the_way_has_taken_the_line()
    {
        var three = new Three(Carriers.Trunk, new MediumFault(Carriers.Trunk, "a", IsCut: true));
        three.Say(0, "a", "c", 6);
        three.Say(0, "b", "c", 6);
        three.Say(0, "c", "a", 6);
        three.RunAll();
        Assert.Equal([(6, "c", "b", 6)], three.Heard);
        var lossy = new Three(Carriers.Trunk, new MediumFault(Carriers.Trunk, "a", LostPercent: 100));
        lossy.Say(0, "a", "c", 6);
        lossy.Say(0, "b", "c", 6);
        lossy.RunAll();
        Assert.Equal([(11, "c", "b", 6)], lossy.Heard);
    }

    [Fact]
    public void So_many_are_lost_as_the_fault_says_the_same_ones_each_time_and_the_rest_is_late()
    {
        List<long> Heard()
        {
            var three = new Three(Carriers.Ip, new MediumFault(Carriers.Ip, null, LostPercent: 20, DelayMilliseconds: 40));
            for (int i = 0; i < 2000; i++) three.Say(i * 100, "a", "b", 4);
            three.RunAll();
            return [.. three.Heard.Select(h => h.At)];
        }
        List<long> heard = Heard();
        // 1600 of 2000 are expected; four standard deviations are 4 · √(2000 · 0.2 · 0.8) = 72.
        Assert.InRange(heard.Count, 1528, 1672);
        Assert.All(heard, at => Assert.Equal(43, at % 100));
        Assert.Equal(heard, Heard());
    }

    [Fact]
    public void What_is_on_its_way_is_kept()
    {
        Three before = new(Carriers.Trunk), after = new(Carriers.Trunk);
        before.Say(0, "a", "c", 6);
        before.Say(0, "b", "c", 6);
        after.Recall(before.Remember());
        after.Say(0, "a", "c", 6);
        after.RunAll();
        Assert.Equal([(6, "c", "a", 6), (11, "c", "b", 6), (16, "c", "a", 6)], after.Heard);
    }
}
