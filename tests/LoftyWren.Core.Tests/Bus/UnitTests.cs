using System.Text.Json;
using LoftyWren.Core.Bus;
using LoftyWren.Core.Bus.Descriptions;
using LoftyWren.Core.Bus.Devices;
using LoftyWren.Core.Bus.Lines;
using LoftyWren.Core.Bus.Stories;
using LoftyWren.Core.Bus.Topology;
using LoftyWren.Core.Records;

namespace LoftyWren.Core.Tests.Bus;

/// <summary>Devices as they hang on a line: addresses, what is written into them, what interrupts that, and what they do over real telegrams.</summary>
public sealed class UnitTests
{
    /// <summary>A program's end of a line: it asks, and keeps what is answered.</summary>
    private sealed class Program(BusNetwork network, string line, int number = 1) : ILineStation
    {
        private IndividualAddress Own { get; } = IndividualAddress.Of(1, number, 240);

        private readonly List<BusFrame> _got = [];
        private long _now = 1000;

        public string Key => "program";

        public bool IsAlive => true;

        public LineAnswer Answer(BusFrame frame) => frame.IsBroadcast || (!frame.IsToGroup && frame.Device == Own) ? LineAnswer.Taken : LineAnswer.None;

        public void Hear(long microseconds, BusFrame frame) => _got.Add(frame);

        public void Sent(long microseconds, BusFrame frame, bool isTaken)
        {
        }

        public long Now => _now;

        public IReadOnlyList<BusFrame> Say(BusFrame frame, long milliseconds = 400)
        {
            _got.Clear();
            network.Line(line).Want(this, frame with { From = Own }, _now * 1000);
            _now += milliseconds;
            network.RunUntil(_now);
            return [.. _got];
        }

        public byte[]? Write(IndividualAddress to, TransferStep s) => Octets(Say(BusFrame.ToDevice(to, BusPids.Write(s.Part, s.Pid, s.Octets, s.First, s.Count))));

        public byte[]? Read(IndividualAddress to, BusPart part, int pid, int first = 1, int count = 1) => Octets(Say(BusFrame.ToDevice(to, BusPids.Ask(part, pid, first, count))));

        private static byte[]? Octets(IReadOnlyList<BusFrame> frames) => frames.Where(f => f.Service == BusService.PropertyAnswer).Select(f => BusPids.Read(f)!.Value).Where(p => p.Count > 0).Select(p => p.Octets).FirstOrDefault();
    }

    private static readonly IndividualAddress Address = IndividualAddress.Of(1, 1, 7);
    private const string Serial = "00FA-1000-0110-D6", Other = "00FA-1000-0102-A8";

    private static DeviceDescription Shipped(string id) => DescriptionShelf.Shipped.Single(d => d.Id == id);

    private static (BusNetwork Network, Program Program, BusUnit Unit) With(string description)
    {
        var network = new BusNetwork();
        BusUnit unit = network.Hang(1000, "u", "l", Shipped(description), Serial);
        var program = new Program(network, "l");
        network.Line("l").Attach(program);
        return (network, program, unit);
    }

    private static ApplicationImage Image(StagedDevice staged)
    {
        DeviceForm form = staged.Values.Form;
        GroupNumber[] groups = [.. staged.Joins.SelectMany(j => j.Groups).Distinct().Order()];
        return new ApplicationImage(staged.Values.Differing.ToDictionary(p => p.At, p => staged.Values.ValueOf(p.At)), groups, [.. staged.Joins.SelectMany(j => j.Groups.Select(g => new ObjectTie(Array.IndexOf(groups, g), form.FindObject(j.Object)!.Number)))]);
    }

    [Fact]
    public void What_is_read_back_after_an_interrupted_write_is_what_runs_and_the_load_state_says_so()
    {
        var (network, program, unit) = With("switch-6");
        ApplicationImage before = Image(Told.Device("switch-6", "output1.function=staircase", joins: ("output1.switch", "1/0/1"))), after = Image(Told.Device("switch-6", "output1.function=pulse", joins: [("output1.switch", "1/0/2"), ("output2.switch", "1/0/3")]));
        network.Do(program.Now, unit, (u, now) => u.Write(now, before, Address));
        uint sum = before.Check(unit.Description.Form);
        IReadOnlyList<TransferStep> steps = ApplicationTransfer.Of(after, null, unit.Description.Form).Steps;
        for (int cut = 1; cut < steps.Count; cut++)
        {
            for (int i = 0; i < cut; i++) Assert.NotNull(program.Write(Address, steps[i]));
            Assert.Equal([(byte)LoadState.Loading], program.Read(Address, BusPart.Application, BusPids.Load)!);
            Assert.Equal(sum, System.Buffers.Binary.BinaryPrimitives.ReadUInt32BigEndian(program.Read(Address, BusPart.Application, BusPids.Check)!));
            Assert.Equal([0, 1], program.Read(Address, BusPart.Groups, BusPids.Table, 0)!);
            Assert.Equal([0x08, 0x01], program.Read(Address, BusPart.Groups, BusPids.At(BusPids.Table, 0).Pid, BusPids.At(BusPids.Table, 0).First)!);
        }
    }

    [Theory]
    [InlineData("groups=none", 0, 1)]
    [InlineData("groups=all", 2, 1)]
    [InlineData("groups=filter", 1, 1)]
    [InlineData("groups=filter; broadcasts=no", 1, 0)]
    // To nobody above: sent once and, as the coupler is set, repeated.
    [InlineData("repeats=0", 1, 1, 1)]
    [InlineData("repeats=2", 1, 1, 3)]
    public void A_coupler_does_what_its_parameters_say(string settings, int groups, int broadcasts, int tries = 4)
    {
        var network = new BusNetwork();
        BusUnit coupler = network.Hang(1000, "c", "1.1", Shipped("coupler-1"), Serial, "1.0");
        var below = new Program(network, "1.1");
        network.Line("1.1").Attach(below);
        var above = new List<BusFrame>();
        network.Line("1.0").Watcher = m => above.Add(m.Frame);
        StagedDevice staged = Told.Device("coupler-1", settings);
        network.Do(1000, coupler, (u, now) => u.Write(now, new ApplicationImage(staged.Values.Differing.ToDictionary(p => p.At, p => staged.Values.ValueOf(p.At)), [GroupNumber.Of(1, 0, 1)], []), IndividualAddress.Of(1, 1, 0)));
        foreach (int group in new[] { 1, 2 }) below.Say(BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 0, group), [1], 1, BusPriority.Low));
        below.Say(BusFrame.ToAll(BusFrame.Say(BusService.AddressRead, [])));
        Assert.Equal((groups, broadcasts), (above.Where(f => f.IsToGroup && !f.IsBroadcast).Select(f => f.Group).Distinct().Count(), above.Count(f => f.IsBroadcast) > 0 ? 1 : 0));
        above.Clear();
        below.Say(BusFrame.ToDevice(IndividualAddress.Of(1, 2, 9), BusFrame.Say(BusService.DescriptorRead, [])), 2000);
        Assert.Equal(tries, above.Count);
    }

    [Fact]
    public void An_address_is_taken_by_whose_button_was_pressed_and_by_whose_label_is_named()
    {
        var (network, program, unit) = With("switch-4");
        BusUnit second = network.Hang(1000, "v", "l", Shipped("dim-4"), Other);
        byte[] address = [(byte)(Address.Raw >> 8), (byte)Address.Raw];
        program.Say(BusFrame.ToAll(BusFrame.Say(BusService.AddressWrite, address)));
        Assert.Equal((IndividualAddress.Factory, IndividualAddress.Factory), (unit.Address, second.Address));
        unit.Press();
        Assert.Equal([IndividualAddress.Factory], program.Say(BusFrame.ToAll(BusFrame.Say(BusService.AddressRead, []))).Select(f => f.From));
        program.Say(BusFrame.ToAll(BusFrame.Say(BusService.AddressWrite, address)));
        Assert.Equal((Address, IndividualAddress.Factory), (unit.Address, second.Address));
        program.Say(BusFrame.ToAll(BusFrame.Say(BusService.SerialWrite, [.. BusSerial.Octets(Other), 0x11, 0x09, 0, 0, 0, 0])));
        Assert.Equal((Address, IndividualAddress.Of(1, 1, 9)), (unit.Address, second.Address));
        Assert.Equal(Serial, BusSerial.Label(program.Read(Address, BusPart.Device, BusPids.Serial)!));
    }

    [Fact]
    public void Two_out_of_the_box_in_programming_mode_are_both_heard_of()
    {
        var (network, program, unit) = With("switch-4");
        BusUnit second = network.Hang(1000, "v", "l", Shipped("dim-4"), Other);
        unit.Press();
        second.Press();
        // They say the very same at once and cannot be told apart; asked for their labels they say different things.
        Assert.Single(program.Say(BusFrame.ToAll(BusFrame.Say(BusService.AddressRead, []))));
        Assert.Equal([Other, Serial], program.Say(BusFrame.ToDevice(IndividualAddress.Factory, BusPids.Ask(BusPart.Device, BusPids.Serial))).Select(f => BusSerial.Label(BusPids.Read(f)!.Value.Octets)).Order());
    }

    /// <summary>Law: at whichever telegram a transfer breaks off, with or without a restart, the device has just what it had; when it is whole it has the new.</summary>
    [Fact]
    public void A_transfer_that_breaks_off_anywhere_leaves_the_old_and_a_whole_one_brings_the_new()
    {
        ApplicationImage first = Image(Told.Device("switch-12", "output1.function = staircase; output1.staircase = 90; output2.function = delay; output2.onDelay = 3", "u", ("output1.switch", "1/0/1"), ("output1.state", "1/1/1")));
        ApplicationImage next = Image(Told.Device("switch-12", "output1.function = staircase; output1.staircase = 120; output3.function = delay; output3.offDelay = 4.5; output2.scenes = yes", "u", ("output1.switch", "1/0/1 1/0/9"), ("output2.switch", "1/0/2"), ("output1.state", "1/1/1")));
        DeviceForm form = Shipped("switch-12").Form;
        ApplicationTransfer whole = ApplicationTransfer.Of(first, null, form), difference = ApplicationTransfer.Of(next, first, form);
        Assert.InRange(difference.Steps.Count, 6, whole.Steps.Count + 8);
        for (int stopAt = 0; stopAt <= difference.Steps.Count; stopAt++)
        {
            var (network, program, unit) = With("switch-12");
            unit.Write(1000, first, Address);
            for (int i = 0; i < stopAt; i++) Assert.NotNull(program.Write(Address, difference.Steps[i]));
            if (stopAt % 2 == 0)
            {
                var kept = JsonSerializer.Deserialize<BusNetworkMemory>(JsonSerializer.Serialize(network.Remember(), RecordJson.Options), RecordJson.Options)!;
                network.Recall(kept, program.Now);
            }
            bool isWhole = stopAt == difference.Steps.Count;
            Assert.Equal(isWhole ? next : first, unit.Application);
            Assert.Equal(isWhole || stopAt == 0 ? LoadState.Loaded : LoadState.Loading, unit.State);
            Assert.Equal(isWhole ? 120 : 90, unit.Runner!.Values.Form.Find("output1.staircase") is { } p ? Parameters.Number(unit.Runner.Values.ValueOf(p.At)) : null);
            if (isWhole) continue;
            // Sent again from the beginning it comes to the new.
            foreach (TransferStep step in difference.Steps) Assert.NotNull(program.Write(Address, step));
            Assert.Equal(next, unit.Application);
        }
    }

    [Fact]
    public void What_was_never_written_says_so_and_a_sum_that_is_wrong_changes_nothing_over()
    {
        var (_, program, unit) = With("switch-4");
        unit.Press();
        Assert.Equal([(byte)LoadState.Empty], program.Read(IndividualAddress.Factory, BusPart.Application, BusPids.Load)!);
        ApplicationImage image = Image(Told.Device("switch-4", "output1.function = delay; output1.onDelay = 3"));
        ApplicationTransfer transfer = ApplicationTransfer.Of(image, null, Shipped("switch-4").Form);
        foreach (TransferStep step in transfer.Steps.SkipLast(1).Where(s => s.Pid != BusPids.Values)) Assert.NotNull(program.Write(IndividualAddress.Factory, step));
        Assert.Null(program.Write(IndividualAddress.Factory, transfer.Steps[^1]));
        Assert.Equal((LoadState.Broken, null), (unit.State, unit.Application));
        // Nothing can be written but after an order to begin.
        Assert.Null(program.Write(IndividualAddress.Factory, transfer.Steps[1]));
    }

    /// <summary>Law: whatever is set on whichever device, a transfer brings just that, whole or by its differences, and texts too.</summary>
    [Fact]
    public void Whatever_is_set_arrives()
    {
        var random = new Random(9);
        foreach (DeviceDescription description in DescriptionShelf.Shipped.Where(d => d.Channels.Count > 0))
        {
            DeviceForm form = description.Form;
            var (_, program, unit) = With(description.Id);
            unit.Write(1000, ApplicationImage.Empty, Address);
            ApplicationImage before = ApplicationImage.Empty;
            for (int round = 0; round < 3; round++)
            {
                var settings = new Dictionary<int, string>();
                foreach (ParameterForm p in form.Parameters.Where(_ => random.Next(12) == 0))
                {
                    string value = p.Is.Sort switch
                    {
                        ParameterSort.Choice => p.Is.Choices![random.Next(p.Is.Choices.Count)].Key,
                        ParameterSort.YesNo => random.Next(2) == 0 ? Parameters.Yes : Parameters.No,
                        ParameterSort.Text => new string('ä', random.Next(0, p.Is.Letters ?? 14)),
                        _ => Parameters.Write(p.Is.Least!.Value + (Math.Round(random.NextDouble() * (p.Is.Most!.Value - p.Is.Least.Value) / (p.Is.Step ?? 1)) * (p.Is.Step ?? 1))),
                    };
                    if (p.Is.Read(value).Value is { } read && read != p.Is.Begins) settings[p.At] = read;
                }
                var image = new ApplicationImage(settings, [.. Enumerable.Range(1, random.Next(0, 12)).Select(n => new GroupNumber((ushort)n))], []);
                image = image with { Ties = form.Objects.Count == 0 ? [] : [.. image.Groups.Select((_, i) => new ObjectTie(i, form.Objects[i % form.Objects.Count].Number))] };
                foreach (TransferStep step in ApplicationTransfer.Of(image, round == 0 ? null : before, form).Steps) Assert.True(program.Write(Address, step) is not null, $"{description.Id}: {step.Part} {step.Pid} {step.First}");
                Assert.Equal(image, unit.Application);
                Assert.Empty(image.DifferencesTo(unit.Application!, form));
                before = image;
            }
        }
    }

    /// <summary>From the main line: what is to a device below a coupler reaches it and comes back; of groups only those in its table, and all while it has none.</summary>
    [Fact]
    public void A_device_below_a_coupler_is_reached_from_above()
    {
        var network = new BusNetwork();
        BusUnit coupler = network.Hang(1000, "c", "below", Shipped("coupler-1"), Other, "above");
        BusUnit unit = network.Hang(1000, "u", "below", Shipped("switch-4"), Serial);
        unit.Write(1000, Image(Told.Device("switch-4", "", "u", ("output1.switch", "1/0/1"), ("output2.switch", "1/0/2"))), Address);
        var program = new Program(network, "above", 0);
        network.Line("above").Attach(program);
        double Output(int number) => unit.LoadOf(unit.Description.Form.ChannelAt($"output{number}"), unit.Description.Form.Channels[unit.Description.Form.ChannelAt($"output{number}")].Behaviour.Drives[0], program.Now);
        void Tell(int group, byte value) => program.Say(BusFrame.OfGroup(BusService.GroupWrite, GroupNumber.Of(1, 0, group), [value], 1));
        // As it was delivered it lets everything through.
        Assert.Equal(Serial, BusSerial.Label(program.Read(Address, BusPart.Device, BusPids.Serial)!));
        Tell(2, 1);
        Assert.Equal(1, Output(2));
        coupler.Write(program.Now, new ApplicationImage(new Dictionary<int, string>(), [GroupNumber.Of(1, 0, 1)], []), IndividualAddress.Of(1, 1, 0));
        Assert.Equal(Serial, BusSerial.Label(program.Read(Address, BusPart.Device, BusPids.Serial)!));
        Tell(1, 1);
        Tell(2, 0);
        Assert.Equal((1.0, 1.0), (Output(1), Output(2)));
        // The coupler itself is asked like any device.
        Assert.Equal(Other, BusSerial.Label(program.Read(IndividualAddress.Of(1, 1, 0), BusPart.Device, BusPids.Serial)!));
        Assert.Equal(1, program.Read(IndividualAddress.Of(1, 1, 0), BusPart.Groups, BusPids.Table, 0)![1]);
    }

    /// <summary>The worst table: more groups than the line counts in one array; a coupler of nine thousand is written, changed and read like a small one.</summary>
    [Fact]
    public void A_table_that_is_longer_than_the_line_can_count_arrives_whole()
    {
        var (_, program, unit) = With("coupler-1");
        DeviceForm form = Shipped("coupler-1").Form;
        var image = new ApplicationImage(new Dictionary<int, string>(), [.. Enumerable.Range(1, 9000).Select(n => new GroupNumber((ushort)n))], []);
        unit.Write(1000, ApplicationImage.Empty, Address);
        foreach (TransferStep step in ApplicationTransfer.Of(image, null, form).Steps) Assert.NotNull(program.Write(Address, step));
        Assert.Equal(image, unit.Application);
        ApplicationImage changed = image with { Groups = [.. image.Groups.Take(8500).Select((g, i) => i == 4001 ? new GroupNumber(60_000) : g)] };
        var difference = ApplicationTransfer.Of(changed, image, form);
        Assert.InRange(difference.Steps.Count, 4, 6);
        foreach (TransferStep step in difference.Steps) Assert.NotNull(program.Write(Address, step));
        Assert.Equal(changed, unit.Application);
        var (pid, first) = BusPids.At(BusPids.Table, 4001);
        Assert.Equal([0xEA, 0x60], program.Read(Address, BusPart.Groups, pid, first)!);
        for (int place = 0; place < 20_000; place += 37) Assert.Equal(place, BusPids.At(BusPids.Table, place) is var at ? BusPids.IndexOf(BusPids.Table, at.Pid, at.First) : null);
    }

    /// <summary>Law: whatever bytes come, a device neither breaks nor forgets who it is, over a restart too.</summary>
    [Fact]
    public void Hostile_bytes_break_nothing()
    {
        var random = new Random(77);
        var (network, program, unit) = With("button-6-display");
        unit.Write(1000, ApplicationImage.Empty, Address);
        int[] pids = [BusPids.Load, BusPids.Table, BusPids.Values, BusPids.SetPlaces, BusPids.Texts, BusPids.Check, BusPids.Drive, BusPids.Hours, BusPids.Programming, 202, 220, 235, 255];
        for (int i = 0; i < 6000; i++)
        {
            byte[] octets = new byte[random.Next(0, 12)];
            random.NextBytes(octets);
            byte[] told = random.Next(4) switch
            {
                0 => BusPids.Ask((BusPart)random.Next(6), pids[random.Next(pids.Length)], random.Next(4096), random.Next(16)),
                1 => [.. Enumerable.Range(0, random.Next(1, 20)).Select(_ => (byte)random.Next(256))],
                // The order to begin, and what makes it complete, more often than chance would have it.
                2 => BusPids.Write(BusPart.Application, BusPids.Load, [(byte)random.Next(6)]),
                _ => BusPids.Write((BusPart)random.Next(6), pids[random.Next(pids.Length)], octets, random.Next(3) == 0 ? random.Next(4096) : random.Next(4), random.Next(16)),
            };
            program.Say(BusFrame.ToDevice(Address, told), 150);
            if (i % 50 == 0 && program.Read(Address, BusPart.Application, BusPids.Check) is { } sum && program.Write(Address, new TransferStep(BusPart.Application, BusPids.Check, 1, 1, sum)) is not null) program.Write(Address, new TransferStep(BusPart.Application, BusPids.Load, 1, 1, [(byte)LoadOrder.Complete]));
            if (i % 500 == 0) network.Recall(JsonSerializer.Deserialize<BusNetworkMemory>(JsonSerializer.Serialize(network.Remember(), RecordJson.Options), RecordJson.Options)!, program.Now);
        }
        Assert.Equal(Serial, BusSerial.Label(program.Read(Address, BusPart.Device, BusPids.Serial)!));
    }

    [Fact]
    public void What_a_device_wanted_to_say_when_it_was_taken_off_is_not_said()
    {
        var (network, program, unit) = With("switch-4");
        unit.Write(1000, Image(Told.Device("switch-4", "", "u", ("output1.switch", "1/0/1"), ("output1.state", "1/1/1"))), Address);
        network.RunUntil(10_000);
        var heard = new List<int>();
        network.Line("l").Watcher = m => heard.Add(m.Frame.To);
        network.Do(10_000, unit, (u, now) => u.Runner!.Write(now, u.Description.Form.FindObject("output1.switch")!, 1));
        network.Do(10_000, unit, (u, now) => u.Run(now));
        Assert.Equal(1, network.Line("l").WaitingOf(unit));
        network.Do(10_000, unit, (u, now) => u.Supply(now, true, isOff: true));
        network.RunUntil(20_000);
        Assert.Empty(heard);
        GC.KeepAlive(program);
    }

    [Fact]
    public void A_channel_is_driven_by_hand_before_anything_was_written_and_let_go_again()
    {
        var (_, program, unit) = With("switch-12");
        unit.Press();
        Assert.True(double.IsNaN(unit.LoadOf(1, unit.Description.Form.Channels[1].Behaviour.Drives[0], 0)));
        int channel = unit.Description.Form.ChannelAt("output3");
        Assert.NotNull(program.Write(IndividualAddress.Factory, new TransferStep(BusPart.Application, BusPids.Drive, channel + 1, 1, [0x3F, 0x80, 0, 0])));
        Assert.Equal(1, unit.LoadOf(channel, unit.Description.Form.Channels[channel].Behaviour.Drives[0], program.Now));
        Assert.NotNull(program.Write(IndividualAddress.Factory, new TransferStep(BusPart.Application, BusPids.Drive, channel + 1, 1, [0x7F, 0xC0, 0, 0])));
        Assert.True(double.IsNaN(unit.LoadOf(channel, unit.Description.Form.Channels[channel].Behaviour.Drives[0], program.Now)));
    }

    /// <summary>
    /// The store's rule over real telegrams: light on at presence; 180 s without movement and it goes to 15 %, 20 s later off;
    /// movement before that brings it back to full; the extract fan only when movement was seen in two windows of 180 s in a
    /// row, running on for 480 s. The figures are the rule's own; a telegram's 21 ms at most is allowed for.
    /// </summary>
    [Fact]
    public void The_stores_rule_holds_on_a_line()
    {
        var network = new BusNetwork();
        StagedDevice presence = Told.Device("presence-6", "output1.hold = 180; output1.sends = value; output1.threshold = 0; output1.warning = 20; output2.function = confirmed; output2.window = 180; output2.windows = 2; output2.runOn = 480", "p", ("output1.value", "1/3/0"), ("output2.switch", "4/0/0"));
        StagedDevice dim = Told.Device("dim-4", "output1.valueTime = 0; output1.softOn = 0; output1.softOff = 0", "d", ("output1.value", "1/3/0"));
        StagedDevice fan = Told.Device("switch-4", "", "s", ("output1.switch", "4/0/0"));
        BusUnit Hang(StagedDevice staged, string description, int number)
        {
            BusUnit unit = network.Hang(0, staged.Name, "l", Shipped(description), Serial);
            unit.Write(0, Image(staged), IndividualAddress.Of(1, 1, number));
            return unit;
        }
        BusUnit detector = Hang(presence, "presence-6", 10), lamp = Hang(dim, "dim-4", 2), extract = Hang(fan, "switch-4", 3);
        double Light(double seconds) => Load(lamp, "output1", seconds);
        double Fan(double seconds) => Load(extract, "output1", seconds);
        double Load(BusUnit unit, string channel, double seconds)
        {
            network.RunUntil((long)(seconds * 1000));
            int at = unit.Description.Form.ChannelAt(channel);
            double load = unit.LoadOf(at, unit.Description.Form.Channels[at].Behaviour.Drives[0], (long)(seconds * 1000));
            // A brightness on the bus is one of 255: 15 % is 38 of them.
            return double.IsNaN(load) ? 0 : Math.Round(load);
        }
        void Move(double seconds, bool seen)
        {
            network.RunUntil((long)(seconds * 1000));
            network.Do((long)(seconds * 1000), detector, (u, now) => u.Sense(now, -1, "movement", seen ? 1 : 0));
        }
        Assert.Equal((0, 0), (Light(10), Fan(10)));
        Move(100, true);
        Assert.Equal((0, 100), (Light(100), Light(100.1)));
        Move(130, false);
        Assert.Equal((100, 15, 15, 0), (Light(309.9), Light(310.1), Light(329.9), Light(330.1)));
        Assert.Equal(0, Fan(340));
        // Once more: back to full on movement in the warning.
        Move(1000, true);
        Move(1010, false);
        Assert.Equal(15, Light(1195));
        Move(1200, true);
        Assert.Equal(100, Light(1200.1));
        Move(1205, false);
        Assert.Equal((15, 0), (Light(1386), Light(1405.1)));
        // Movement at 1000 opens the first window, at 1200 is in the second, which runs until 1360: the extract comes then and runs on for 480 s.
        Assert.Equal(1, Fan(1406));
    }
}
