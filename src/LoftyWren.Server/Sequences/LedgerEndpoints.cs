using LoftyWren.Core.Images;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Sequences;
using LoftyWren.Core.Sequences.Ledger;
using LoftyWren.Core.Texts;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Commissioning;
using LoftyWren.Server.Projects;
using LoftyWren.Server.Supervision;
using LoftyWren.Storage.Accounts;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Sequences;

/// <summary>A sequence as a ledger; and where its controller runs another, what differs line by line, the first being what runs.</summary>
public sealed record LedgerView(IReadOnlyList<LedgerLine> Lines, string Text, IReadOnlyList<DiffLine> Against, bool Runs);

/// <summary>A ledger as text.</summary>
public sealed record LedgerRequest(string Text);

/// <summary>The sequence that a ledger comes to, and what of it cannot be read.</summary>
public sealed record LedgerReading(Sequence Sequence, IReadOnlyList<LedgerProblem> Problems);

/// <summary>A line of a ledger as far as it has been written, with the whole text that it is of.</summary>
public sealed record LedgerPlace(string Text, string Line, int At);

internal static class LedgerEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/sequences/{id}/ledger", Results<Ok<LedgerView>, ProblemHttpResult> (string id, Workspace workspace, ILink site, ImageCache images) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            Project project = workspace.Project;
            var lines = LedgerText.Write(project, sequence);
            IHostImage? image = sequence.ControllerId is { } host ? images.ImageOf(site.Find(host), site) : null;
            Sequence? runs = image?.Records.OfType<Sequence>().FirstOrDefault(s => s.Id == sequence.Id);
            // What runs is written with the names that things had when it was sent.
            string[] sent = runs is null ? [] : LedgerText.Whole(Project.Load(0, image!.Records.Select(r => new Entry(r, 0))), runs).Split('\n');
            string[] now = [.. lines.Select(l => l.Text)];
            return TypedResults.Ok(new LedgerView(lines, string.Join('\n', now), runs is null || sent.SequenceEqual(now) ? [] : LineDiff.Of(sent, now), runs is not null));
        }).For(Role.Viewer);
        api.MapPost("/sequences/{id}/ledger/read", Results<Ok<LedgerReading>, ProblemHttpResult> (string id, LedgerRequest request, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            if (request.Text.Length > LedgerReader.MostText) return Problems.Refused($"A ledger has at most {LedgerReader.MostText} characters; this one has {request.Text.Length}.");
            var (read, problems) = LedgerReader.Read(workspace.Project, sequence, request.Text);
            return TypedResults.Ok(new LedgerReading(read, problems));
        }).For(Role.Engineer);
        api.MapPost("/sequences/{id}/ledger/offers", Results<Ok<List<LedgerOffer>>, ProblemHttpResult> (string id, LedgerPlace place, Workspace workspace) =>
        {
            if (Find(workspace, id) is not { } sequence) return Problems.Missing("sequence");
            if (place.Text.Length > LedgerReader.MostText) return Problems.Refused($"A ledger has at most {LedgerReader.MostText} characters.");
            // Lines that have been written but not kept yet can be named as well.
            var (read, problems) = LedgerReader.Read(workspace.Project, sequence, string.Join('\n', place.Text.Split('\n').Where(l => l != place.Line)));
            var offers = LedgerCompletion.Of(workspace.Project, problems.Count == 0 ? read : sequence, place.Line, place.At).ToList();
            var (typed, from) = LedgerCompletion.Fragment(place.Line, place.At);
            // Nothing near has these words: points elsewhere, by words.
            if (offers.Count == 0 && typed.Length > 1)
                offers.AddRange(workspace.Finder.Find(workspace.Project, typed, 40).Select(h => workspace.Project.Find<Core.Points.Point>(h.Id)).OfType<Core.Points.Point>().Take(8).Select(p => new LedgerOffer($"{p.Name} of {workspace.Project.Find(p.OwnerId)?.Name}", workspace.Project.PathOf(p.Id), from)));
            return TypedResults.Ok(offers);
        }).For(Role.Engineer);
    }

    private static Sequence? Find(Workspace workspace, string id) => RecordId.IsValid(id) ? workspace.Project.Find<Sequence>(new RecordId(id)) : null;
}
