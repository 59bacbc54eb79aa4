using LoftyWren.Core.Projects;
using LoftyWren.Core.Proofs;
using LoftyWren.Core.Sequences.Ledger;

namespace LoftyWren.Core.Sequences;

/// <summary>Takes blocks of a sequence together as one own block, and an own block apart again; what is calculated stays the same.</summary>
public static class Parting
{
    private const int MostPins = 24, MostLabel = 40;

    /// <summary>The own blocks of a project by name, each in its latest revision.</summary>
    public static IReadOnlyDictionary<string, Part> Library(Project project) =>
        project.All<Sequence>().SelectMany(s => s.Blocks).SelectMany(Within).GroupBy(p => p.Name, StringComparer.OrdinalIgnoreCase).ToDictionary(g => g.Key, g => g.MaxBy(p => p.Revision)!, StringComparer.OrdinalIgnoreCase);

    private static IEnumerable<Part> Within(Block block) => block.Inside is not { } part ? [] : part.Blocks.SelectMany(Within).Prepend(part);

    /// <summary>
    /// The sequence with some of its blocks as one: what they read from outside becomes inputs, what is read of them outputs, and
    /// the numbers that are set on them settings. Clauses and tests go on being about them. Where there is an own block of that
    /// name, this is its next revision: a pin or setting that is called as one of it was keeps its identity, and what is new gets
    /// one that none has had, so that an update never connects one thing in place of another.
    /// </summary>
    /// <exception cref="InvalidOperationException">They cannot be one; the message says why.</exception>
    public static (Sequence Sequence, string BlockId) Together(Project project, Sequence sequence, IReadOnlyCollection<string> ids, string name)
    {
        var chosen = sequence.Blocks.Where(b => ids.Contains(b.Id)).ToList();
        if (chosen.Count == 0) throw new InvalidOperationException("Pick the blocks that are to be one.");
        if (string.IsNullOrWhiteSpace(name) || name.Length > 60) throw new InvalidOperationException("Give the block a name of 1 to 60 characters.");
        var inside = chosen.Select(b => b.Id).ToHashSet();
        var names = new LedgerNames(project, sequence);
        string own = Fresh("own", sequence.Blocks.Select(b => b.Id).ToHashSet());
        Part? before = Library(project).GetValueOrDefault(name.Trim());

        // Each thing that is read from outside is one input, whichever block reads it.
        var outer = new List<Source>();
        foreach (Source source in chosen.SelectMany(b => b.Inputs.Values).Where(s => s is not ConstantSource && !(s is BlockSource b && inside.Contains(b.BlockId))))
        {
            if (!outer.Contains(source)) outer.Add(source);
        }
        List<string> labels = Apart(outer.ConvertAll(names.Of)), pins = Identities("in", labels, before?.Inputs.Select(i => (i.Label, i.Id)));
        List<Block> blocks = chosen.ConvertAll(b => b with { Inputs = b.Inputs.ToDictionary(i => i.Key, i => outer.IndexOf(i.Value) is >= 0 and var at ? new PinSource(pins[at]) : i.Value) });
        var read = sequence.Sources().Where(s => s.Block is null || !inside.Contains(s.Block.Id)).Select(s => s.Source).OfType<BlockSource>().Where(s => inside.Contains(s.BlockId)).Distinct().ToList();
        if (read.Count == 0) read.Add(new BlockSource(chosen[^1].Id, BlockType.Of(chosen[^1]).Outputs[0].Name));
        if (outer.Count > MostPins || read.Count > MostPins) throw new InvalidOperationException($"They would have {outer.Count} inputs and {read.Count} outputs; an own block has at most {MostPins} of each. Take fewer blocks together.");
        List<string> given = Apart(read.ConvertAll(s => chosen.First(b => b.Id == s.BlockId).Says(s.Pin))), outs = Identities("out", given, before?.Outputs.Select(o => (o.Label, o.Id)));
        var outputs = read.Select((s, i) => new PartOutput { Id = outs[i], Label = given[i], BlockId = s.BlockId, Pin = s.Pin }).ToList();
        var set = chosen.SelectMany(b => b.Numbers.Keys.Select(n => (Block: b, Number: BlockType.Of(b).Numbers.First(x => x.Name == n)))).Take(MostPins).ToList();
        List<string> told = Apart(set.ConvertAll(s => $"{s.Block.Called()}: {s.Number.Label}")), sets = Identities("set", told, before?.Settings.Select(x => (x.Label, x.Id)));
        var part = new Part
        {
            Name = name.Trim(),
            Revision = (before?.Revision ?? 0) + 1,
            Inputs = [.. labels.Select((l, i) => new PartInput { Id = pins[i], Label = l, Required = true })],
            Outputs = outputs,
            Settings = [.. set.Select((x, i) => new PartSetting { Id = sets[i], Label = told[i], BlockId = x.Block.Id, Setting = x.Number.Name })],
            Blocks = blocks,
        };
        var made = new Block { Id = own, Kind = BlockKind.Own, Label = null, Inside = part, Inputs = pins.Select((p, i) => (p, i)).ToDictionary(x => x.p, x => outer[x.i]) };
        Source Outside(Source source) => source is BlockSource b && inside.Contains(b.BlockId) ? new BlockSource(own, outputs.First(o => o.BlockId == b.BlockId && o.Pin == b.Pin).Id) : source;
        bool IsOfInside(string mode) => inside.Contains(mode.Split('/')[0]);
        int place = sequence.Blocks.ToList().FindIndex(b => inside.Contains(b.Id));
        var rest = sequence.Blocks.Where(b => !inside.Contains(b.Id)).Select(b => b with { Inputs = b.Inputs.ToDictionary(i => i.Key, i => Outside(i.Value)) }).ToList();
        // A line back from an output into the very block is a loop outside of it.
        rest.Insert(sequence.Blocks.Take(place).Count(b => !inside.Contains(b.Id)), made with { Inputs = made.Inputs.ToDictionary(i => i.Key, i => Outside(i.Value)) });
        return (sequence with
        {
            Blocks = rest,
            Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k.Source is null ? k : k with { Source = Outside(k.Source) })] })],
            Clauses = [.. sequence.Clauses.Select(c => c.Blocks.Any(inside.Contains) || c.Modes.Any(IsOfInside) ? c with { Blocks = [.. c.Blocks.Where(b => !inside.Contains(b)).Append(own)], Modes = [.. c.Modes.Where(m => !IsOfInside(m))] } : c)],
            Tests = [.. sequence.Tests.Select(t => t with { Steps = [.. t.Steps.Select(s => s.Subject is { BlockId: { } b } subject && inside.Contains(b) ? s with { Subject = subject with { BlockId = $"{own}.{b}" } } : s)] })],
        }, own);
    }

    /// <summary>The sequence with an own block taken apart into the blocks inside.</summary>
    /// <exception cref="InvalidOperationException">It is no own block.</exception>
    public static Sequence TakenApart(Sequence sequence, string id)
    {
        if (sequence.Blocks.FirstOrDefault(b => b.Id == id) is not { Inside: { } part } own) throw new InvalidOperationException("Only an own block can be taken apart.");
        var taken = sequence.Blocks.Where(b => b.Id != id).Select(b => b.Id).ToHashSet();
        var called = part.Blocks.ToDictionary(b => b.Id, b => Fresh(b.Id, taken));
        Source? Inner(Source source) => source switch
        {
            PinSource pin => own.Inputs.TryGetValue(pin.Pin, out Source? fed) ? Outside(fed) : null,
            BlockSource b => new BlockSource(called[b.BlockId], b.Pin),
            _ => source,
        };
        Source Outside(Source source) => source is BlockSource b && b.BlockId == id && part.Outputs.FirstOrDefault(o => o.Id == b.Pin) is { } output ? new BlockSource(called[output.BlockId], output.Pin) : source;
        TestSubject Led(TestSubject subject)
        {
            if (subject.BlockId == id && part.Outputs.FirstOrDefault(o => o.Id == subject.Pin) is { } output) return subject with { BlockId = called[output.BlockId], Pin = output.Pin };
            if (subject.BlockId is not { } within || !within.StartsWith($"{id}.", StringComparison.Ordinal)) return subject;
            string[] way = within[(id.Length + 1)..].Split('.', 2);
            return called.TryGetValue(way[0], out string? now) ? subject with { BlockId = way.Length > 1 ? $"{now}.{way[1]}" : now } : subject;
        }
        var blocks = new List<Block>();
        foreach (Block block in sequence.Blocks)
        {
            if (block.Id != id) blocks.Add(block with { Inputs = block.Inputs.ToDictionary(i => i.Key, i => Outside(i.Value)) });
            else blocks.AddRange(part.Blocks.Select(b => part.Set(b, own)).Select(b => b with { Id = called[b.Id], Inputs = b.Inputs.Select(i => (i.Key, Source: Inner(i.Value))).Where(i => i.Source is not null).ToDictionary(i => i.Key, i => i.Source!) }));
        }
        return sequence with
        {
            Blocks = blocks,
            Commands = [.. sequence.Commands.Select(c => c with { Claims = [.. c.Claims.Select(k => k.Source is null ? k : k with { Source = Outside(k.Source) })] })],
            Clauses = [.. sequence.Clauses.Select(c => c.Blocks.Contains(id) ? c with { Blocks = [.. c.Blocks.Where(b => b != id), .. called.Values] } : c)],
            Tests = [.. sequence.Tests.Select(t => t with { Steps = [.. t.Steps.Select(s => s.Subject is null ? s : s with { Subject = Led(s.Subject) })] })],
        };
    }

    /// <summary>The sequence with an own block as the library has it now: pins and settings of one identity stay as they are.</summary>
    public static Sequence Updated(Sequence sequence, string id, Part part) => sequence with
    {
        Blocks = [.. sequence.Blocks.Select(b => b.Id != id ? b : b with { Inside = part, Inputs = b.Inputs.Where(i => part.Inputs.Any(p => p.Id == i.Key)).ToDictionary(i => i.Key, i => i.Value), Numbers = b.Numbers.Where(n => part.Settings.Any(s => s.Id == n.Key)).ToDictionary(n => n.Key, n => n.Value) })],
    };

    private static string Fresh(string word, HashSet<string> taken)
    {
        string id = word;
        for (int n = 2; !taken.Add(id); n++) id = $"{word}-{n}";
        return id;
    }

    private static string Short(string label) => label.Length <= MostLabel ? label : label[..(MostLabel - 1)] + "…";

    /// <summary>Labels of which no two are the same.</summary>
    private static List<string> Apart(List<string> labels)
    {
        var taken = new HashSet<string>(StringComparer.OrdinalIgnoreCase);
        return labels.ConvertAll(label =>
        {
            string free = Short(label);
            for (int n = 2; !taken.Add(free); n++) free = $"{(label.Length > MostLabel - 6 ? label[..(MostLabel - 6)] : label)} ({n})";
            return free;
        });
    }

    /// <summary>The identity that each label had in the revision before; for those that are new, one that none has had.</summary>
    private static List<string> Identities(string word, List<string> labels, IEnumerable<(string Label, string Id)>? before)
    {
        var had = (before ?? []).GroupBy(b => b.Label, StringComparer.OrdinalIgnoreCase).ToDictionary(g => g.Key, g => g.First().Id, StringComparer.OrdinalIgnoreCase);
        var taken = had.Values.ToHashSet();
        int next = 1;
        return labels.ConvertAll(label =>
        {
            if (had.TryGetValue(label, out string? id)) return id;
            while (!taken.Add($"{word}{next}")) next++;
            return $"{word}{next}";
        });
    }
}
