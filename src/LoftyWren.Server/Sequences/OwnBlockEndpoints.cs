using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>Blocks that are to be one, called so.</summary>
public sealed record TogetherRequest(IReadOnlyList<string> Blocks, string Name);

/// <summary>A sequence with blocks taken together or apart, which is kept by putting it; and the block that was made.</summary>
public sealed record PartedSequence(Sequence Sequence, string? BlockId);

/// <summary>An own block of the project's library: its latest revision, and in how many places it stands.</summary>
public sealed record OwnBlockLine(string Name, int Revision, int Inputs, int Outputs, int Places, Part Part);

/// <summary>What is inside an own block, as lines of a ledger with the block each is of.</summary>
public sealed record InsideView(IReadOnlyList<LedgerLine> Lines, int Latest);

/// <summary>Blocks that a block of a kind is to stand behind.</summary>
public sealed record WrapRequest(IReadOnlyList<string> Blocks, BlockKind Kind);

/// <summary>What was copied of another sequence: blocks by their ids, outputs as o:id; and which points somebody chose in place of theirs, or that one is to be left open.</summary>
public sealed record PasteRequest(RecordId From, IReadOnlyList<string> Picked, IReadOnlyList<PasteChoice> Choices);

/// <summary>The point that somebody chose in place of another; none to leave it open.</summary>
public sealed record PasteChoice(RecordId Was, RecordId? Is);

/// <summary>A point of what is pasted, in words: which it was, which it becomes (none where it must be asked for), and why.</summary>
public sealed record PasteLine(RecordId Was, string WasName, RecordId? Is, string IsName, string Why, bool IsCommanded);

/// <summary>A sequence with what was pasted, which is kept by putting it; its points, what is new, and how many inputs were left open.</summary>
public sealed record PastedSequence(Sequence Sequence, IReadOnlyList<PasteLine> Points, IReadOnlyList<string> Made, int Opened, string From);

internal static class OwnBlockEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/own-blocks", (Workspace workspace) =>
        {
            var places = workspace.Project.All<Sequence>().SelectMany(s => s.Blocks).Where(b => b.Inside is not null).ToLookup(b => b.Inside!.Name, StringComparer.OrdinalIgnoreCase);
            return Parting.Library(workspace.Project).Values.OrderBy(p => p.Name, Core.Names.NaturalOrder.Names).Select(p => new OwnBlockLine(p.Name, p.Revision, p.Inputs.Count, p.Outputs.Count, places[p.Name].Count(), p)).ToList();
        }).For(Role.Viewer);
        api.MapPost("/sequences/{id}/together", Results<Ok<PartedSequence>, ProblemHttpResult> (string id, TogetherRequest request, Workspace workspace) =>
            Parted(workspace, id, s => Parting.Together(workspace.Project, s, request.Blocks, request.Name))).For(Role.Engineer);
        api.MapPost("/sequences/{id}/wrap", Results<Ok<PartedSequence>, ProblemHttpResult> (string id, WrapRequest request, Workspace workspace) =>
            Parted(workspace, id, s => Wrapping.Around(workspace.Project, s, request.Blocks, request.Kind, RecordId.New("wrap").Value))).For(Role.Engineer);
        api.MapPost("/sequences/{id}/paste", Results<Ok<PastedSequence>, ProblemHttpResult> (string id, PasteRequest request, Workspace workspace) =>
        {
            Project project = workspace.Project;
            if (Find(workspace, id) is not { } into) return Problems.Missing("sequence");
            if (project.Find<Sequence>(request.From) is not { } from) return Problems.Refused("The sequence that was copied from is not there any more.");
            try
            {
                Pasted pasted = Pasting.Into(project, into, from, [.. request.Picked], request.Choices.DistinctBy(c => c.Was).ToDictionary(c => c.Was, c => c.Is));
                string called(RecordId? point) => point is { } p && project.Find(p) is { } record ? $"{(record.ParentId is { } owner ? project.Find(owner)?.Name : null)} · {record.Name}" : "";
                return TypedResults.Ok(new PastedSequence(pasted.Sequence, [.. pasted.Matches.Select(m => new PasteLine(m.Was, called(m.Was), m.Is, called(m.Is), m.Why, m.IsCommanded))], pasted.Made, pasted.Opened, from.Name));
            }
            catch (InvalidOperationException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
        api.MapPost("/sequences/{id}/apart/{block}", Results<Ok<PartedSequence>, ProblemHttpResult> (string id, string block, Workspace workspace) =>
            Parted(workspace, id, s => (Parting.TakenApart(s, block), null))).For(Role.Engineer);
        api.MapPost("/sequences/{id}/renew/{block}", Results<Ok<PartedSequence>, ProblemHttpResult> (string id, string block, Workspace workspace) =>
            Parted(workspace, id, s => s.Blocks.FirstOrDefault(b => b.Id == block)?.Inside is { } part && Parting.Library(workspace.Project).GetValueOrDefault(part.Name) is { } latest ? (Parting.Updated(s, block, latest), block) : throw new InvalidOperationException("This is no own block."))).For(Role.Engineer);
        api.MapGet("/sequences/{id}/inside/{block}", Results<Ok<InsideView>, ProblemHttpResult> (string id, string block, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            // One that has just been taken apart has nothing inside any more.
            if (sequence.Blocks.FirstOrDefault(b => b.Id == block)?.Inside is not { } part) return TypedResults.Ok(new InsideView([], 0));
            // Written as a sequence of its own, in which its inputs are what they are called.
            var lines = LedgerText.Write(workspace.Project, new Sequence { Id = new("inside"), Name = part.Name, EquipmentId = sequence.EquipmentId, Blocks = part.Blocks }, part.Inputs.ToDictionary(i => i.Id, i => i.Label));
            return TypedResults.Ok(new InsideView(lines, Parting.Library(workspace.Project).GetValueOrDefault(part.Name)?.Revision ?? part.Revision));
        }).For(Role.Viewer);
    }

    private static Results<Ok<PartedSequence>, ProblemHttpResult> Parted(Workspace workspace, string id, Func<Sequence, (Sequence, string?)> part)
    {
        if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
        try
        {
            var (parted, block) = part(sequence);
            return TypedResults.Ok(new PartedSequence(parted, block));
        }
        catch (InvalidOperationException e)
        {
            return Problems.Refused(e.Message);
        }
    }

    private static Sequence? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Sequence>(new RecordId(id)) : null;
}
