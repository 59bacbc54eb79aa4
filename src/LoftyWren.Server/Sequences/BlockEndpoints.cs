using LoftyWren.Core.Sequences;
using LoftyWren.Server.Accounts;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>A kind of block with its help.</summary>
public sealed record BlockView(BlockType Definition, BlockHelp Help);

/// <summary>The chart in the help of a kind.</summary>
public sealed record KindStory(BlockKind Kind, BlockStory Story);

internal static class BlockEndpoints
{
    private static readonly Lazy<IReadOnlyList<KindStory>> Stories = new(() => [.. BlockType.All.Where(t => !t.IsRetired && !t.IsInner).Select(t => new KindStory(t.Kind, BlockStory.Of(new Block { Id = "b", Kind = t.Kind })))]);

    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/blocks", () => BlockType.All.Select(d => new BlockView(d, BlockHelp.Of(d.Kind))).ToList()).For(Role.Viewer);
        api.MapGet("/blocks/stories", () => Stories.Value).For(Role.Viewer);
        api.MapPost("/blocks/story", Results<Ok<BlockStory>, ProblemHttpResult> (Block block) =>
            Sequence.Wrong(block).FirstOrDefault() is { } wrong ? Problems.Refused(wrong) : TypedResults.Ok(BlockStory.Of(block))).For(Role.Viewer);
    }
}
