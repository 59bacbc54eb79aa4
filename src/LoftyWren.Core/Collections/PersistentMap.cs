using System.Collections;
using System.Diagnostics.CodeAnalysis;
using System.Numerics;

namespace LoftyWren.Core.Collections;

/// <summary>
/// An immutable map: a changed one shares all but the path to what changed. A trie over the keys' hashes with 32 ways a
/// level (Bagwell, “Ideal Hash Trees”, 2001), entries kept apart from branches (Steindorfer and Vinju, OOPSLA 2015). It is
/// read in a few array steps, and filled through <see cref="Builder"/> in place, which is what edits of twenty thousand
/// records need; see docs/decisions/0015.
/// </summary>
public sealed class PersistentMap<TKey, TValue> : IReadOnlyCollection<KeyValuePair<TKey, TValue>>
    where TKey : notnull
{
    private const int BitsALevel = 5;
    private const int MostShift = 32;
    private readonly Node _root;

    private PersistentMap(Node root, int count)
    {
        _root = root;
        Count = count;
    }

    /// <summary>The map with nothing in it.</summary>
    public static PersistentMap<TKey, TValue> Empty { get; } = new(new Node(null), 0);

    /// <inheritdoc/>
    public int Count { get; }

    /// <summary>All values, in no order.</summary>
    public IEnumerable<TValue> Values => this.Select(e => e.Value);

    /// <summary>All keys, in no order.</summary>
    public IEnumerable<TKey> Keys => this.Select(e => e.Key);

    /// <summary>The value of a key.</summary>
    public bool TryGetValue(TKey key, [MaybeNullWhen(false)] out TValue value) => TryGet(_root, key, out value);

    /// <summary>The value of a key, or the default.</summary>
    public TValue? GetValueOrDefault(TKey key) => TryGet(_root, key, out TValue? value) ? value : default;

    /// <summary>Whether there is a value for the key.</summary>
    public bool ContainsKey(TKey key) => TryGet(_root, key, out _);

    /// <summary>Opens it for changes; this map stays as it is.</summary>
    public Builder ToBuilder() => new(this);

    /// <summary>This map with one value more, or another one.</summary>
    public PersistentMap<TKey, TValue> With(TKey key, TValue value)
    {
        Builder builder = ToBuilder();
        builder[key] = value;
        return builder.ToImmutable();
    }

    /// <summary>This map without a key.</summary>
    public PersistentMap<TKey, TValue> Without(TKey key)
    {
        Builder builder = ToBuilder();
        return builder.Remove(key) ? builder.ToImmutable() : this;
    }

    /// <inheritdoc/>
    public IEnumerator<KeyValuePair<TKey, TValue>> GetEnumerator()
    {
        // Seven levels of hash and one of collisions, each with at most 32 branches waiting.
        var open = new Stack<Node>();
        open.Push(_root);
        while (open.TryPop(out Node? node))
        {
            for (int i = 0; i < node.EntryCount; i++) yield return node.Entries[i];
            for (int i = 0; i < node.BranchCount; i++) open.Push(node.Branches[i]);
        }
    }

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    private static bool TryGet(Node node, TKey key, [MaybeNullWhen(false)] out TValue value)
    {
        uint hash = (uint)key.GetHashCode();
        for (int shift = 0; shift < MostShift; shift += BitsALevel)
        {
            uint bit = Node.Bit(hash, shift);
            if ((node.BranchMap & bit) != 0)
            {
                node = node.Branches[Node.Place(node.BranchMap, bit)];
                continue;
            }
            if ((node.EntryMap & bit) != 0)
            {
                ref readonly KeyValuePair<TKey, TValue> entry = ref node.Entries[Node.Place(node.EntryMap, bit)];
                if (EqualityComparer<TKey>.Default.Equals(entry.Key, key))
                {
                    value = entry.Value;
                    return true;
                }
            }
            value = default;
            return false;
        }
        int at = node.Find(key);
        value = at < 0 ? default : node.Entries[at].Value;
        return at >= 0;
    }

    /// <summary>
    /// Entries and branches of one level. <see cref="EntryMap"/> and <see cref="BranchMap"/> say of each of the 32 ways
    /// whether an entry or a branch is on it, in order; below the last bit of the hash the entries stand in any order.
    /// </summary>
    private sealed class Node(object? owner)
    {
        public readonly object? Owner = owner;
        public uint EntryMap, BranchMap;
        public int EntryCount, BranchCount;
        public KeyValuePair<TKey, TValue>[] Entries = [];
        public Node[] Branches = [];

        public static uint Bit(uint hash, int shift) => 1u << (int)((hash >> shift) & 31);

        public static int Place(uint map, uint bit) => BitOperations.PopCount(map & (bit - 1));

        /// <summary>This node if the builder made it, else a copy that it may change.</summary>
        public Node Mine(object owner) => Owner == owner ? this : new Node(owner) { EntryMap = EntryMap, BranchMap = BranchMap, EntryCount = EntryCount, BranchCount = BranchCount, Entries = Entries.AsSpan(0, EntryCount).ToArray(), Branches = Branches.AsSpan(0, BranchCount).ToArray() };

        public int Find(TKey key)
        {
            for (int i = 0; i < EntryCount; i++)
            {
                if (EqualityComparer<TKey>.Default.Equals(Entries[i].Key, key)) return i;
            }
            return -1;
        }

        public void InsertEntry(int at, KeyValuePair<TKey, TValue> entry) => Insert(ref Entries, ref EntryCount, at, entry);

        public void InsertBranch(int at, Node branch) => Insert(ref Branches, ref BranchCount, at, branch);

        public void RemoveEntry(int at) => Remove(ref Entries, ref EntryCount, at);

        public void RemoveBranch(int at) => Remove(ref Branches, ref BranchCount, at);

        private static void Insert<T>(ref T[] array, ref int count, int at, T value)
        {
            if (count == array.Length)
            {
                var larger = new T[count + Math.Max(1, count / 2)];
                array.AsSpan(0, count).CopyTo(larger);
                array = larger;
            }
            array.AsSpan(at, count - at).CopyTo(array.AsSpan(at + 1));
            array[at] = value;
            count++;
        }

        private static void Remove<T>(ref T[] array, ref int count, int at)
        {
            array.AsSpan(at + 1, count - at - 1).CopyTo(array.AsSpan(at));
            array[--count] = default!;
        }
    }

    /// <summary>A map that is being changed. What it answers by <see cref="ToImmutable"/> is not touched by what comes after.</summary>
    public sealed class Builder
    {
        private object? _owner;
        private Node _root;

        internal Builder(PersistentMap<TKey, TValue> map)
        {
            _root = map._root;
            Count = map.Count;
        }

        /// <summary>How many entries there are.</summary>
        public int Count { get; private set; }

        /// <summary>Sets the value of a key; reading one that is not there throws.</summary>
        public TValue this[TKey key]
        {
            get => TryGet(_root, key, out TValue? value) ? value : throw new KeyNotFoundException($"There is no {key}.");
            set => _root = Put(_root, key, value, (uint)key.GetHashCode(), 0, _owner ??= new object());
        }

        /// <summary>The value of a key.</summary>
        public bool TryGetValue(TKey key, [MaybeNullWhen(false)] out TValue value) => TryGet(_root, key, out value);

        /// <summary>The value of a key, or the default.</summary>
        public TValue? GetValueOrDefault(TKey key) => TryGet(_root, key, out TValue? value) ? value : default;

        /// <summary>Takes a key out; false when it was not there.</summary>
        public bool Remove(TKey key)
        {
            int before = Count;
            _root = Take(_root, key, (uint)key.GetHashCode(), 0, _owner ??= new object());
            return Count < before;
        }

        /// <summary>The map as it is now.</summary>
        public PersistentMap<TKey, TValue> ToImmutable()
        {
            // From here on this builder copies again what it had made.
            _owner = null;
            return new(_root, Count);
        }

        private Node Put(Node node, TKey key, TValue value, uint hash, int shift, object owner)
        {
            if (shift >= MostShift)
            {
                int place = node.Find(key);
                node = node.Mine(owner);
                if (place >= 0) node.Entries[place] = new(key, value);
                else
                {
                    node.InsertEntry(node.EntryCount, new(key, value));
                    Count++;
                }
                return node;
            }
            uint bit = Node.Bit(hash, shift);
            if ((node.BranchMap & bit) != 0)
            {
                int at = Node.Place(node.BranchMap, bit);
                Node before = node.Branches[at], after = Put(before, key, value, hash, shift + BitsALevel, owner);
                if (ReferenceEquals(before, after)) return node;
                node = node.Mine(owner);
                node.Branches[at] = after;
                return node;
            }
            int entry = Node.Place(node.EntryMap, bit);
            node = node.Mine(owner);
            if ((node.EntryMap & bit) == 0)
            {
                node.InsertEntry(entry, new(key, value));
                node.EntryMap |= bit;
                Count++;
                return node;
            }
            KeyValuePair<TKey, TValue> there = node.Entries[entry];
            if (EqualityComparer<TKey>.Default.Equals(there.Key, key))
            {
                node.Entries[entry] = new(key, value);
                return node;
            }
            // Two keys on one way: both go one level down.
            var branch = new Node(owner);
            int count = Count;
            branch = Put(Put(branch, there.Key, there.Value, (uint)there.Key.GetHashCode(), shift + BitsALevel, owner), key, value, hash, shift + BitsALevel, owner);
            Count = count + 1;
            node.RemoveEntry(entry);
            node.EntryMap &= ~bit;
            node.InsertBranch(Node.Place(node.BranchMap, bit), branch);
            node.BranchMap |= bit;
            return node;
        }

        private Node Take(Node node, TKey key, uint hash, int shift, object owner)
        {
            if (shift >= MostShift)
            {
                int place = node.Find(key);
                if (place < 0) return node;
                node = node.Mine(owner);
                node.RemoveEntry(place);
                Count--;
                return node;
            }
            uint bit = Node.Bit(hash, shift);
            if ((node.BranchMap & bit) != 0)
            {
                int at = Node.Place(node.BranchMap, bit), count = Count;
                Node before = node.Branches[at], after = Take(before, key, hash, shift + BitsALevel, owner);
                if (Count == count) return node;
                node = node.Mine(owner);
                if (after is { BranchCount: 0, EntryCount: 1 })
                {
                    // A single entry stands where its branch was, so that equal maps have equal shapes.
                    node.RemoveBranch(at);
                    node.BranchMap &= ~bit;
                    node.InsertEntry(Node.Place(node.EntryMap, bit), after.Entries[0]);
                    node.EntryMap |= bit;
                }
                else node.Branches[at] = after;
                return node;
            }
            int entry = Node.Place(node.EntryMap, bit);
            if ((node.EntryMap & bit) == 0 || !EqualityComparer<TKey>.Default.Equals(node.Entries[entry].Key, key)) return node;
            node = node.Mine(owner);
            node.RemoveEntry(entry);
            node.EntryMap &= ~bit;
            Count--;
            return node;
        }
    }
}
