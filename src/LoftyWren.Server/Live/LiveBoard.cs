using System.Collections.Concurrent;
using System.Threading.Channels;
using LoftyWren.Core.Live;
using LoftyWren.Core.Status;
using LoftyWren.Server.Supervision;

namespace LoftyWren.Server.Live;

/// <summary>
/// The live values that somebody watches: each is found once, read once a look whoever watches it, and put into words once
/// when it has changed, outside of the site's turn. Every client is served by a task of its own, which always sends the
/// newest: a slow one delays nobody, and misses what came and went meanwhile.
/// </summary>
public sealed class LiveBoard(ILink link, Func<string, IReadOnlyList<LiveValue>, CancellationToken, Task> send)
{
    /// <summary>How many values are read in one turn with the site: a fraction of a millisecond.</summary>
    private const int AtOnce = 2048;

    private readonly ConcurrentDictionary<string, Cell> _cells = new();
    private readonly ConcurrentDictionary<string, Client> _clients = new();
    private readonly Lock _looking = new();
    private Cell[]? _all;
    private long _look;
    private int _generation = -1;

    /// <summary>How many values are watched, each counted once.</summary>
    public int Count => _cells.Count;

    /// <summary>
    /// Sets what a client watches: it is sent all of that, and from then on what changes. Both by the task that serves it, so
    /// that nothing older ever comes behind what is newer.
    /// </summary>
    public void Watch(string connection, IReadOnlyList<string> addresses)
    {
        lock (_looking)
        {
            Cell[] cells = [.. addresses.Distinct().Select(a => _cells.GetOrAdd(a, static address => new Cell(address)))];
            foreach (Cell cell in cells) cell.Watchers++;
            Cell[] before = [];
            if (_clients.TryGetValue(connection, out Client? client)) before = client.Cells;
            else _clients[connection] = client = new Client(connection, send);
            foreach (Cell cell in before)
            {
                if (--cell.Watchers == 0) _cells.TryRemove(cell.Address, out _);
            }
            _all = null;
            // What is watched already was looked at a moment ago; only the rest is looked at now.
            Read(Array.FindAll(cells, c => c.Value is null));
            client.Begin(cells);
            client.Wake(_look);
        }
    }

    /// <summary>Forgets a client.</summary>
    public void Forget(string connection)
    {
        lock (_looking)
        {
            if (!_clients.TryRemove(connection, out Client? client)) return;
            client.End();
            foreach (Cell cell in client.Cells)
            {
                if (--cell.Watchers == 0) _cells.TryRemove(cell.Address, out _);
            }
            _all = null;
        }
    }

    /// <summary>Looks at all that is watched, and wakes whoever serves the clients.</summary>
    public void Look()
    {
        lock (_looking)
        {
            _look++;
            Read(_all ??= [.. _cells.Values]);
            foreach (Client client in _clients.Values) client.Wake(_look);
        }
    }

    private void Read(Cell[] cells)
    {
        try
        {
            for (int from = 0; from < cells.Length; from += AtOnce) ReadSome(cells.AsSpan(from, Math.Min(AtOnce, cells.Length - from)));
        }
        catch (LinkException)
        {
            // What nobody answers for is what it was, and old.
            foreach (Cell cell in cells)
            {
                cell.Fresh = cell.Fresh is { } last ? last with { Status = last.Status | StatusFlags.Stale } : null;
                cell.Take(_look);
            }
        }
    }

    private void ReadSome(Span<Cell> cells)
    {
        int[] handles = new int[cells.Length];
        // Programs may change over between finding and reading, but hardly twice.
        for (int attempt = 0; attempt < 5; attempt++)
        {
            bool isFound = true;
            for (int i = 0; i < cells.Length; i++)
            {
                isFound &= cells[i].Generation == _generation;
                handles[i] = cells[i].Handle;
            }
            LiveRead read = isFound ? link.ReadLive(_generation, handles) : new LiveRead(_generation, null);
            if (read.Readings is { } readings)
            {
                for (int i = 0; i < cells.Length; i++)
                {
                    cells[i].Fresh = cells[i].Handle < 0 ? null : readings[i];
                    cells[i].Take(_look);
                }
                return;
            }
            string[] addresses = new string[cells.Length];
            for (int i = 0; i < cells.Length; i++) addresses[i] = cells[i].Address;
            LiveFound found = link.FindLive(addresses);
            _generation = found.Generation;
            for (int i = 0; i < cells.Length; i++) (cells[i].Handle, cells[i].Form, cells[i].Generation) = (found.Spots[i].Handle, found.Spots[i].Form, found.Generation);
        }
    }

    /// <summary>One value, whoever watches it.</summary>
    private sealed class Cell(string address)
    {
        private Reading? _last;
        private ValueForm? _saidBy;
        private long _changed;

        public string Address { get; } = address;

        public int Watchers { get; set; }

        public int Generation { get; set; } = -1;

        public int Handle { get; set; } = -1;

        public ValueForm Form { get; set; } = ValueForm.Number;

        public Reading? Fresh { get; set; }

        public LiveValue? Value { get; private set; }

        /// <summary>The look at which it changed last.</summary>
        public long Changed => Volatile.Read(ref _changed);

        /// <summary>Takes what was read. Every scan gives a fresh time; only a value or a status that differs is news.</summary>
        public void Take(long look)
        {
            bool isSame = Value is not null && Equals(_saidBy, Form) && _last is null == Fresh is null
                && (_last is not { } last || (last.Status == Fresh!.Value.Status && (last.Value == Fresh.Value.Value || (double.IsNaN(last.Value) && double.IsNaN(Fresh.Value.Value)))));
            if (isSame) return;
            (_last, _saidBy) = (Fresh, Form);
            Value = Fresh is not { } r ? new LiveValue(Address, null, (int)StatusFlags.Released, 0, "–")
                : new LiveValue(Address, double.IsFinite(r.Value) ? r.Value : null, (int)r.Status, r.AtMilliseconds, Form.Say(r));
            Volatile.Write(ref _changed, look);
        }
    }

    /// <summary>One client, with the task that serves it.</summary>
    private sealed class Client
    {
        private readonly string _connection;
        private readonly Func<string, IReadOnlyList<LiveValue>, CancellationToken, Task> _send;
        // One mark, not a queue: who wakes up late finds the newest, not what has passed.
        private readonly Channel<long> _wake = Channel.CreateBounded<long>(new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropOldest, SingleReader = true });
        private readonly CancellationTokenSource _gone = new();
        private (Cell[] Cells, long Seen) _state = ([], 0);

        public Client(string connection, Func<string, IReadOnlyList<LiveValue>, CancellationToken, Task> send)
        {
            (_connection, _send) = (connection, send);
            _ = Serve();
        }

        public Cell[] Cells
        {
            get
            {
                lock (_gone) return _state.Cells;
            }
        }

        public void Begin(Cell[] cells)
        {
            lock (_gone) _state = (cells, -1);
        }

        public void Wake(long look) => _wake.Writer.TryWrite(look);

        public void End()
        {
            _wake.Writer.TryComplete();
            _gone.Cancel();
        }

        private async Task Serve()
        {
            var changed = new List<LiveValue>();
            try
            {
                await foreach (long look in _wake.Reader.ReadAllAsync(_gone.Token))
                {
                    Cell[] cells;
                    long seen;
                    lock (_gone)
                    {
                        (cells, seen) = _state;
                        if (look > seen) _state = (cells, look);
                    }
                    changed.Clear();
                    foreach (Cell cell in cells)
                    {
                        if (cell.Changed > seen) changed.Add(cell.Value!);
                    }
                    if (changed.Count > 0) await _send(_connection, [.. changed], _gone.Token);
                }
            }
            catch (Exception e) when (e is OperationCanceledException or IOException or InvalidOperationException)
            {
                // The client has gone; whoever notices that first forgets it.
            }
        }
    }
}
