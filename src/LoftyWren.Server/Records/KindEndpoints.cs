using LoftyWren.Core.Fields;
using LoftyWren.Core.Records;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Records;

/// <summary>A kind of record as screens need to know it.</summary>
/// <param name="Key">Its name everywhere.</param>
/// <param name="Nouns">The words for its records.</param>
/// <param name="IsTagged">Whether they carry tags.</param>
/// <param name="CanBegin">Whether one can be added with a name and an owner alone.</param>
/// <param name="Columns">What a grid of them shows, the name first.</param>
/// <param name="Groups">What the rows of a grid can be grouped by.</param>
/// <param name="Replace">The fields whose texts can be found and replaced.</param>
public sealed record KindView(string Key, IReadOnlyList<KindNoun> Nouns, bool IsTagged, bool CanBegin, IReadOnlyList<FieldView> Columns, IReadOnlyList<FieldView> Groups, IReadOnlyList<FieldView> Replace);

/// <summary>A field as screens need to know it.</summary>
/// <param name="Key">Its name.</param>
/// <param name="Label">What people call it.</param>
/// <param name="Unit">The symbol of the unit of its number, or null.</param>
/// <param name="IsNumber">Whether it is a number.</param>
/// <param name="IsShown">Whether it can only be read off.</param>
/// <param name="Choices">The only texts it takes; empty where it takes any.</param>
/// <param name="Hint">What an empty one may suggest.</param>
/// <param name="LeadsTo">The words for the records that it leads to, a comma between them, where it leads to one; its text may be an id.</param>
/// <param name="About">What it is, in a sentence for whoever fills it.</param>
/// <param name="Least">The least number that is taken, in its unit, or null.</param>
/// <param name="Most">The greatest number that is taken, in its unit, or null.</param>
/// <param name="IsSpan">Whether it is a stretch of time in seconds, which can be written as 1 h 30 min.</param>
public sealed record FieldView(string Key, string Label, string? Unit, bool IsNumber, bool IsShown, IReadOnlyList<string> Choices, string? Hint, string? LeadsTo, string? About, double? Least, double? Most, bool IsSpan)
{
    /// <summary>The view of a field.</summary>
    public static FieldView Of(Field field) => new(field.Key, field.Label, field.Unit, field.IsNumber, field.IsShown, field.Choices, field.Hint, RecordKinds.All.FirstOrDefault(k => k.Type == field.LeadsTo)?.Nouns is { } nouns ? string.Join(',', nouns.Select(n => n.Noun)) : null, field.About, field.Least, field.Most, field.IsSpan);
}

/// <summary>What the registry of kinds says to screens.</summary>
internal static class KindEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        // Like the description of the interface: the client is built from it, and it says nothing of any project.
        api.MapGet("/kinds", IReadOnlyList<KindView> () => [.. RecordKinds.All.Select(View)]).ForAnybody();
        api.MapGet("/kinds/{key}/free", Results<Ok<IReadOnlyDictionary<string, int>>, ProblemHttpResult> (string key, Workspace workspace) =>
        {
            if (RecordKinds.Find(key) is not { } kind) return Problems.Missing("kind of record");
            var free = new FreeNumbers(workspace.Project);
            return TypedResults.Ok<IReadOnlyDictionary<string, int>>(kind.Numbers.ToDictionary(n => n.Field, n => free.Next(kind, n)));
        }).For(Role.Viewer);
    }

    private static KindView View(RecordKind kind) =>
        new(kind.Key, kind.Nouns, kind.IsTagged, kind.CanBegin, Fields(kind.Offered(FieldUses.Grid)), Fields(kind.Groups), Fields(kind.Offered(FieldUses.Replace)));

    private static IReadOnlyList<FieldView> Fields(IEnumerable<Field> fields) => [.. fields.Select(FieldView.Of)];
}
