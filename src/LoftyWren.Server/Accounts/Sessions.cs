using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using LoftyWren.Storage.Accounts;

namespace LoftyWren.Server.Accounts;

/// <summary>
/// Who is signed in, known to the server: a cookie alone is worth nothing once its session has ended here, in another
/// browser, or by a new password, and its live lines end with it. Kept over restarts, as hashes.
/// </summary>
public sealed class Sessions(AccountStore store, TimeProvider clock)
{
    private readonly ConcurrentDictionary<string, string> _names = new(store.Sessions().ToDictionary(s => s.Id, s => s.Name));
    private readonly ConcurrentDictionary<string, (string Session, Action End)> _lines = new();

    /// <summary>Begins a session; answers what its cookie carries.</summary>
    public string Begin(string name)
    {
        string token = RandomNumberGenerator.GetHexString(32), id = Hash(token);
        store.AddSession(id, name, clock.GetUtcNow().ToUnixTimeMilliseconds());
        _names[id] = name;
        return token;
    }

    /// <summary>Whether a cookie's session goes on.</summary>
    public bool GoesOn(string? token, string? name) => token is not null && name is not null && _names.TryGetValue(Hash(token), out string? of) && of.Equals(name, StringComparison.OrdinalIgnoreCase);

    /// <summary>Ends one session everywhere.</summary>
    public void End(string? token)
    {
        if (token is not null) EndAll([Hash(token)]);
    }

    /// <summary>Ends every session of an account.</summary>
    public void EndAll(string name) => EndAll([.. _names.Where(s => s.Value.Equals(name, StringComparison.OrdinalIgnoreCase)).Select(s => s.Key)]);

    /// <summary>Ties a live line to its session, so that it ends with it; answers false when the session has ended already.</summary>
    public bool Tie(string connection, string? token, Action end)
    {
        if (token is null) return false;
        string id = Hash(token);
        _lines[connection] = (id, end);
        if (_names.ContainsKey(id)) return true;
        _lines.TryRemove(connection, out _);
        return false;
    }

    /// <summary>Forgets a live line.</summary>
    public void Untie(string connection) => _lines.TryRemove(connection, out _);

    private void EndAll(IReadOnlyCollection<string> ids)
    {
        store.RemoveSessions(ids);
        foreach (string id in ids) _names.TryRemove(id, out _);
        foreach (var (connection, line) in _lines)
        {
            if (ids.Contains(line.Session) && _lines.TryRemove(connection, out _)) line.End();
        }
    }

    private static string Hash(string token) => Convert.ToHexString(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
}
