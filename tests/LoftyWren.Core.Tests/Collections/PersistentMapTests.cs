using FsCheck;
using FsCheck.Fluent;
using FsCheck.Xunit;
using LoftyWren.Core.Collections;

namespace LoftyWren.Core.Tests.Collections;

/// <summary>The map against the framework's own dictionary, also where hashes collide in all or many of their bits.</summary>
public class PersistentMapTests
{
    /// <summary>A key whose hash says little: all keys of one group have the same, and groups share their low bits.</summary>
    private readonly record struct Key(int Number)
    {
        public override int GetHashCode() => (Number % 7) << 28;
    }

    private static Gen<(bool Puts, int Key, int Value)[]> Steps(int keys) =>
        Gen.Choose(0, keys).Zip(Gen.Choose(0, 3)).Zip(Gen.Choose(0, 1000)).Select(x => (x.Item1.Item2 > 0, x.Item1.Item1, x.Item2)).ArrayOf(300);

    [Property(MaxTest = 200)]
    public Property It_holds_what_a_dictionary_holds_and_older_maps_stay() => Prop.ForAll(Steps(60).ToArbitrary(), steps => Agrees(steps, k => k));

    [Property(MaxTest = 200)]
    public Property So_it_does_when_hashes_collide() => Prop.ForAll(Steps(60).ToArbitrary(), steps => Agrees(steps, k => new Key(k)));

    private static bool Agrees<TKey>((bool Puts, int Key, int Value)[] steps, Func<int, TKey> keyOf) where TKey : notnull
    {
        var expected = new Dictionary<TKey, int>();
        var map = PersistentMap<TKey, int>.Empty;
        var kept = new List<(PersistentMap<TKey, int> Map, Dictionary<TKey, int> Expected)>();
        PersistentMap<TKey, int>.Builder? open = null;
        for (int i = 0; i < steps.Length; i++)
        {
            var (puts, number, value) = steps[i];
            TKey key = keyOf(number);
            // Ten steps through one builder, then ten by single changes.
            bool isBuilt = i / 10 % 2 == 0;
            if (isBuilt)
            {
                open ??= map.ToBuilder();
                if (puts) open[key] = value;
                else if (open.Remove(key) != expected.ContainsKey(key)) return false;
            }
            else
            {
                if (open is not null) (map, open) = (open.ToImmutable(), null);
                map = puts ? map.With(key, value) : map.Without(key);
            }
            if (puts) expected[key] = value;
            else expected.Remove(key);
            if (i % 25 == 24)
            {
                // What a builder answers stays as it is when the builder goes on.
                if (open is not null) map = open.ToImmutable();
                kept.Add((map, new(expected)));
            }
        }
        return kept.All(k => k.Map.Count == k.Expected.Count
            && k.Map.OrderBy(e => e.Key.ToString()).SequenceEqual(k.Expected.OrderBy(e => e.Key.ToString()))
            && Enumerable.Range(0, 61).All(n => k.Map.TryGetValue(keyOf(n), out int value) == k.Expected.TryGetValue(keyOf(n), out int wanted) && value == wanted));
    }

    [Fact]
    public void Ten_thousand_keys_are_found_and_taken_out_again()
    {
        PersistentMap<string, int> map = PersistentMap<string, int>.Empty;
        PersistentMap<string, int>.Builder builder = map.ToBuilder();
        for (int i = 0; i < 10_000; i++) builder[$"point-{i}"] = i;
        map = builder.ToImmutable();
        Assert.Equal(10_000, map.Count);
        Assert.Equal(49_995_000, map.Values.Sum());
        for (int i = 0; i < 10_000; i += 2) Assert.True(builder.Remove($"point-{i}"));
        Assert.False(builder.Remove("point-0"));
        Assert.Equal(5000, builder.ToImmutable().Count);
        Assert.Equal(10_000, map.Count);
        Assert.True(map.ContainsKey("point-0"));
    }
}
