using LoftyWren.Core.Names;
using LoftyWren.Core.Places;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Templates;
using LoftyWren.Formats.Libraries;
using LoftyWren.Formats.Sheets;
using LoftyWren.Server.Accounts;
using LoftyWren.Server.Jobs;
using LoftyWren.Server.Projects;
using LoftyWren.Storage.Accounts;
using LoftyWren.Storage.Libraries;
using Microsoft.AspNetCore.Http.HttpResults;

namespace LoftyWren.Server.Libraries;

/// <summary>A library in a list: what it holds, and whether this person may write it.</summary>
public sealed record LibraryView(string Id, string Name, string Sort, bool CanWrite, IReadOnlyList<TemplateHeading> Templates);

/// <summary>A library to make; shared ones are seen by all of the installation.</summary>
public sealed record LibraryRequest(string Name, bool Shared);

/// <summary>A reference of a template that leads outward: the noun of what it led to, its name with where it was, and without; and the record of the open project that is the very one, where it has it.</summary>
public sealed record OutwardView(RecordId Id, string Noun, string Name, string Called, RecordId? Here);

/// <summary>A template with the kind of place it is put into, what its placements would be called, what may become a parameter of it, and its revisions.</summary>
public sealed record TemplateView(Template Template, string LibraryId, bool CanWrite, PlaceKind Into, string Named, IReadOnlyList<OutwardView> Outward, IReadOnlyList<Variable> Variables, IReadOnlyList<TemplateHeading> Revisions);

/// <summary>Whether a library is to be for reading.</summary>
public sealed record ReadingRequest(bool IsForReading);

/// <summary>A template to copy into a library.</summary>
public sealed record CopyTemplateRequest(string FromLibrary, string TemplateId);

/// <summary>A template to save, and the revision its author saw (0: it is new).</summary>
public sealed record SaveTemplateRequest(Template Template, int From);

/// <summary>A finished record to be taken as a template.</summary>
public sealed record CaptureRequest(RecordId RecordId, string LibraryId, string Name, string? Folder, string? Comment);

/// <summary>A captured template and what could not come along.</summary>
public sealed record CaptureAnswer(string TemplateId, int Revision, IReadOnlyList<string> Left);

/// <summary>A template to place.</summary>
public sealed record PlaceRequest(string LibraryId, string TemplateId, PlacingRequest Placing);

/// <summary>What a placing would make: rows in order (the first 500), and how many records of which sort.</summary>
public sealed record PlaceView(IReadOnlyList<PlacingRow> Rows, int Placements, IReadOnlyList<string> Records, IReadOnlyList<string> Refusals);

/// <summary>A placement against its template: the newest revision, and every difference.</summary>
public sealed record PlacementView(string TemplateName, int Revision, int Newest, bool CanCompare, IReadOnlyList<PlacementDifference> Differences);

/// <summary>Which local changes to give up, each as record id, slash, field.</summary>
public sealed record UpdateRequest(IReadOnlyList<string> GiveUp);

/// <summary>A record to copy, how often, and the names of the copies.</summary>
public sealed record CopyRequest(RecordId RecordId, int Times, string NamePattern, int First = 2);

/// <summary>What copies would be made, and what becomes of terminals, addresses and links.</summary>
public sealed record CopyView(IReadOnlyList<string> Names, IReadOnlyList<string> Records, IReadOnlyList<string> Notes, IReadOnlyList<string> Refusals);

/// <summary>A template of a library file that meets one that is here: by its id, with another revision, or by its name.</summary>
public sealed record LibraryClash(string TemplateId, string Name, int Revision, string Author, string Here);

/// <summary>A library file against what is here: what is new, what is the same, and what clashes.</summary>
public sealed record LibraryFileView(string Name, string Hash, IReadOnlyList<string> New, IReadOnlyList<string> Same, IReadOnlyList<LibraryClash> Clashes, bool Taken);

internal static class LibraryEndpoints
{
    public static void Map(RouteGroupBuilder api)
    {
        api.MapGet("/libraries", (HttpContext http, Shelf shelf) => shelf.For(Who(http)).Select(l => new LibraryView(l.Id, l.Name, l.Id == StarterLibrary.Id ? "shipped" : l.Owner is null ? "shared" : "personal", !l.IsForReading, shelf.Templates(l.Id))).ToList()).For(Role.Viewer);
        api.MapPost("/libraries", Results<Ok<Library>, ProblemHttpResult> (LibraryRequest request, HttpContext http, Shelf shelf) =>
        {
            string name = request.Name.Trim();
            if (name.Length is 0 or > 60) return Problems.Refused("A library's name has 1 to 60 characters.");
            var library = new Library(RecordId.New("lib").Value, name, request.Shared ? null : Who(http));
            return shelf.Store.Add(library) ? TypedResults.Ok(library) : Problems.Refused($"There is already a library called ‘{name}’. Choose another name.");
        }).For(Role.Engineer);
        api.MapGet("/libraries/{library}/templates/{id}", Results<Ok<TemplateView>, ProblemHttpResult> (string library, string id, int? revision, HttpContext http, Shelf shelf, Workspace workspace) =>
            shelf.Find(Who(http), library, id, revision) is { } t ? TypedResults.Ok(new TemplateView(t, library, shelf.CanWrite(Who(http), library), t.Into(), t.NamedBy(NamingConvention.Of(workspace.Project)), [.. t.Externals.Select(x => new OutwardView(x.Id, x.Noun, x.Name, x.Called(), PlacingWords.Origin(workspace.Project, x)?.Id))], Capture.Variables(t), shelf.Store.Revisions(library, id))) : Problems.Missing("template")).For(Role.Viewer);
        api.MapPost("/libraries/{library}/templates", Results<Ok<TemplateHeading>, ProblemHttpResult> (string library, SaveTemplateRequest request, HttpContext http, Shelf shelf, TimeProvider clock) =>
        {
            if (Refuse(http, shelf, library) is { } refused) return refused;
            Template template = request.Template with { Author = Who(http) };
            if (template.Refuse() is { } sentence) return Problems.Refused(sentence);
            return shelf.Store.Save(library, template, request.From, clock.GetUtcNow().ToUnixTimeMilliseconds()) is { } saved
                ? TypedResults.Ok(shelf.Store.Revisions(library, saved.Id)[0])
                : Problems.Refused("Somebody has saved a newer revision of this template meanwhile. Open that one, and make your change on it.");
        }).For(Role.Engineer);
        api.MapPost("/libraries/{library}/reading", Results<NoContent, ProblemHttpResult> (string library, ReadingRequest request, HttpContext http, Shelf shelf) =>
        {
            if (shelf.For(Who(http)).All(l => l.Id != library)) return Problems.Missing("library");
            if (library == StarterLibrary.Id) return Problems.Refused("The starter library ships with the program and stays for reading. Copy a template into a library of your own.");
            shelf.Store.SetForReading(library, request.IsForReading);
            return TypedResults.NoContent();
        }).For(Role.Engineer);
        api.MapPost("/libraries/{library}/copy", Results<Ok<TemplateHeading>, ProblemHttpResult> (string library, CopyTemplateRequest request, HttpContext http, Shelf shelf, TimeProvider clock) =>
        {
            if (Refuse(http, shelf, library) is { } refused) return refused;
            if (shelf.Find(Who(http), request.FromLibrary, request.TemplateId) is not { } template) return Problems.Missing("template");
            // A template of its own from here on: what was placed from the original goes on following that.
            Template copy = template with { Id = RecordId.New("template").Value, Author = Who(http), Comment = $"Copied from {shelf.For(Who(http)).First(l => l.Id == request.FromLibrary).Name}, revision {template.Revision}. {template.Comment}".Trim() };
            Template saved = shelf.Store.Save(library, copy, 0, clock.GetUtcNow().ToUnixTimeMilliseconds())!;
            return TypedResults.Ok(shelf.Store.Revisions(library, saved.Id)[0]);
        }).For(Role.Engineer);
        api.MapPost("/templates/capture", Results<Ok<CaptureAnswer>, ProblemHttpResult> (CaptureRequest request, HttpContext http, Shelf shelf, Workspace workspace, TimeProvider clock) =>
        {
            if (Refuse(http, shelf, request.LibraryId) is { } refused) return refused;
            if (workspace.Project.Find(request.RecordId) is null) return Problems.Missing("record");
            if (string.IsNullOrWhiteSpace(request.Name)) return Problems.Refused("Give the template a name.");
            var left = new List<string>();
            Template template = Capture.Of(workspace.Project, request.RecordId, RecordId.New("template").Value, request.Name.Trim(), left) with { Folder = request.Folder?.Trim() ?? "", Comment = request.Comment?.Trim() ?? "", Author = Who(http) };
            if (template.Refuse() is { } sentence) return Problems.Refused(sentence);
            Template saved = shelf.Store.Save(request.LibraryId, template, 0, clock.GetUtcNow().ToUnixTimeMilliseconds())!;
            return TypedResults.Ok(new CaptureAnswer(saved.Id, saved.Revision, left));
        }).For(Role.Engineer);
        api.MapPost("/templates/place/preview", Results<Ok<PlaceView>, ProblemHttpResult> (PlaceRequest request, HttpContext http, Shelf shelf, Workspace workspace) =>
            shelf.Find(Who(http), request.LibraryId, request.TemplateId) is { } template ? TypedResults.Ok(View(Placing.Plan(workspace.Project, template, request.Placing))) : Problems.Missing("template")).For(Role.Engineer);
        api.MapPost("/templates/place", Results<Ok<ChangeAnswer>, ProblemHttpResult> (PlaceRequest request, HttpContext http, Shelf shelf, Workspace workspace) =>
            shelf.Find(Who(http), request.LibraryId, request.TemplateId) is { } template ? Place(template, request.Placing, workspace, Who(http)).Now() : Problems.Missing("template")).For(Role.Engineer);
        api.MapPost("/templates/place/start", Results<Ok<JobView>, ProblemHttpResult> (PlaceRequest request, HttpContext http, Shelf shelf, JobRunner jobs) =>
            shelf.Find(Who(http), request.LibraryId, request.TemplateId) is { } template ? TypedResults.Ok(jobs.Start(PlacingJob, $"Placing of ‘{template.Name}’", Who(http), request)) : Problems.Missing("template")).For(Role.Engineer);
        api.MapGet("/placements/{id}", Results<Ok<PlacementView>, ProblemHttpResult> (string id, Shelf shelf, Workspace workspace) =>
        {
            if (!RecordId.IsValid(id) || workspace.Project.Find<Equipment>(new RecordId(id)) is not { Placed: { } placed } equipment) return Problems.Refused("This equipment was not placed from a template, or was detached from it.");
            return shelf.Placed(placed.TemplateId) is { } newest && shelf.Placed(placed.TemplateId, placed.Revision) is { } from
                ? TypedResults.Ok(new PlacementView(placed.TemplateName, placed.Revision, newest.Revision, true, Placing.Compare(workspace.Project, equipment, from, newest)))
                : TypedResults.Ok(new PlacementView(placed.TemplateName, placed.Revision, placed.Revision, false, []));
        }).For(Role.Viewer);
        api.MapPost("/placements/{id}/update", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, UpdateRequest request, HttpContext http, Shelf shelf, Workspace workspace) =>
        {
            if (!RecordId.IsValid(id) || workspace.Project.Find<Equipment>(new RecordId(id)) is not { Placed: { } placed } equipment) return Problems.Refused("This equipment was not placed from a template, or was detached from it.");
            if (shelf.Placed(placed.TemplateId) is not { } newest || shelf.Placed(placed.TemplateId, placed.Revision) is not { } from) return Problems.Refused($"The template ‘{placed.TemplateName}’ is in no library here. Bring its library in, or detach the equipment.");
            return ProjectEndpoints.Answer(workspace.Apply(Placing.Update(workspace.Project, equipment, from, newest, request.GiveUp.ToHashSet()), Who(http), $"Brought ‘{equipment.Name}’ to revision {newest.Revision} of ‘{newest.Name}’", risky: true));
        }).For(Role.Engineer);
        api.MapPost("/placements/{id}/detach", Results<Ok<ChangeAnswer>, ProblemHttpResult> (string id, HttpContext http, Workspace workspace) =>
            RecordId.IsValid(id) && workspace.Project.Find<Equipment>(new RecordId(id)) is { Placed: not null } equipment
                ? ProjectEndpoints.Answer(workspace.Apply([Edit.Of(equipment with { Placed = null }, workspace.Project.FindEntry(equipment.Id)!.Revision)], Who(http), $"Detached ‘{equipment.Name}’ from its template"))
                : Problems.Refused("This equipment was not placed from a template, or was detached from it.")).For(Role.Engineer);
        api.MapPost("/copies/preview", (CopyRequest request, Workspace workspace) =>
        {
            CopyPlan plan = Copying.Plan(workspace.Project, request.RecordId, request.Times, request.NamePattern ?? "", request.First);
            return new CopyView(plan.Names, [.. plan.Records.GroupBy(r => r.Noun).Select(g => ChangeLabel.Count(g.Count(), g.Key))], [.. plan.Notes.Take(200)], plan.Refusals);
        }).For(Role.Engineer);
        api.MapPost("/copies", Results<Ok<ChangeAnswer>, ProblemHttpResult> (CopyRequest request, HttpContext http, Workspace workspace) =>
            Copy(request, workspace, Who(http)).Now()).For(Role.Engineer);
        api.MapPost("/copies/start", Ok<JobView> (CopyRequest request, HttpContext http, Workspace workspace, JobRunner jobs) =>
            TypedResults.Ok(jobs.Start(CopyJob, $"Copies of ‘{workspace.Project.Find(request.RecordId)?.Name}’", Who(http), request))).For(Role.Engineer);
        api.MapGet("/libraries/{library}/file", Results<FileContentHttpResult, ProblemHttpResult> (string library, HttpContext http, Shelf shelf) =>
            shelf.For(Who(http)).FirstOrDefault(l => l.Id == library) is { } found
                ? TypedResults.File(LibraryFile.Write(found.Name, shelf.Templates(library).Select(t => shelf.Find(Who(http), library, t.Id)!)), "application/zip", "library.wrenlib")
                : Problems.Missing("library")).For(Role.Viewer);
        api.MapPost("/libraries/{library}/file", async Task<Results<Ok<LibraryFileView>, ProblemHttpResult>> (string library, bool? take, string? next, string? own, HttpContext http, Shelf shelf, TimeProvider clock) =>
        {
            if (Refuse(http, shelf, library) is { } refused) return refused;
            try
            {
                LibraryFile.Content content = LibraryFile.Read(await Uploads.Read(http));
                List<string> added = [], same = [];
                var clashes = new List<LibraryClash>();
                // Each clash is decided by whoever takes the file: as the next revision, as a template of its own, or not at all.
                HashSet<string> asNext = [.. (next ?? "").Split(',')], asOwn = [.. (own ?? "").Split(',')];
                foreach (Template template in content.Templates)
                {
                    Template? here = shelf.Store.Find(library, template.Id);
                    bool isNew = here is null, isSame = here is not null && here.Revision == template.Revision && System.Text.Json.JsonSerializer.Serialize(here, RecordJson.Options) == System.Text.Json.JsonSerializer.Serialize(template, RecordJson.Options);
                    string called = $"{template.Name}, revision {template.Revision}";
                    TemplateHeading? namesake = isNew ? shelf.Templates(library).FirstOrDefault(t => t.Id != template.Id && t.Name.Equals(template.Name, StringComparison.OrdinalIgnoreCase)) : null;
                    bool isClash = !isSame && (!isNew || namesake is not null);
                    if (isClash) clashes.Add(new LibraryClash(template.Id, template.Name, template.Revision, template.Author, here is not null ? $"revision {here.Revision} by {here.Author}" : $"another template of this name, revision {namesake!.Revision} by {namesake.Author}"));
                    else (isNew ? added : same).Add(called);
                    if (take != true || isSame) continue;
                    // What is here is never overwritten: every revision stays.
                    long at = clock.GetUtcNow().ToUnixTimeMilliseconds();
                    if (!isClash || (asNext.Contains(template.Id) && !isNew)) shelf.Store.Save(library, template, here?.Revision ?? 0, at);
                    else if (asOwn.Contains(template.Id))
                    {
                        string name = $"{template.Name} ({content.Name})";
                        shelf.Store.Save(library, template with { Id = isNew ? template.Id : RecordId.New("template").Value, Name = name[..Math.Min(80, name.Length)] }, 0, at);
                    }
                }
                return TypedResults.Ok(new LibraryFileView(content.Name, content.Hash, added, same, clashes, take == true));
            }
            catch (FileRefusedException e)
            {
                return Problems.Refused(e.Message);
            }
        }).For(Role.Engineer);
    }

    /// <summary>The job that places a template.</summary>
    internal static JobKind<PlaceRequest> PlacingJob { get; } = new("placing", (services, who, request) =>
        Place(services.GetRequiredService<Shelf>().Find(who, request.LibraryId, request.TemplateId) ?? throw new InvalidOperationException("The template is in none of your libraries any more."), request.Placing, services.GetRequiredService<Workspace>(), who).AsWork())
    { May = Role.Engineer };

    /// <summary>The job that copies a room, a floor, a building or equipment.</summary>
    internal static JobKind<CopyRequest> CopyJob { get; } = new("copy", (services, who, request) => Copy(request, services.GetRequiredService<Workspace>(), who).AsWork()) { May = Role.Engineer };

    private static PlannedEdit Place(Template template, PlacingRequest placing, Workspace workspace, string who) => new(workspace, who, report =>
    {
        int all = placing.Places.Count * Math.Max(1, placing.Each), total = all + Math.Max(1, all / 2);
        PlacingPlan plan = Placing.Plan(workspace.Project, template, placing, done => report?.Invoke(done, total, $"Placing {done:N0} of {all:N0}"));
        return new PlannedEdits([.. plan.Records.Select(r => Edit.Of(r, 0))], $"Placed {plan.Rows.Count} × ‘{template.Name}’", plan.Refusals.Count > 0 ? string.Join(" ", plan.Refusals.Take(3)) : null);
    });

    private static PlannedEdit Copy(CopyRequest request, Workspace workspace, string who) => new(workspace, who, report =>
    {
        int total = request.Times + Math.Max(1, request.Times / 2);
        CopyPlan plan = Copying.Plan(workspace.Project, request.RecordId, request.Times, request.NamePattern ?? "", request.First, done => report?.Invoke(done, total, $"Copying {done:N0} of {request.Times:N0}"));
        return new PlannedEdits([.. plan.Records.Select(r => Edit.Of(r, 0))], $"Copied ‘{workspace.Project.Find(request.RecordId)?.Name}’ {plan.Names.Count} ×", plan.Refusals.Count > 0 ? string.Join(" ", plan.Refusals.Take(3)) : null);
    });

    private static string Who(HttpContext http) => http.User.Identity!.Name!;

    private static ProblemHttpResult? Refuse(HttpContext http, Shelf shelf, string library)
    {
        if (shelf.For(Who(http)).FirstOrDefault(l => l.Id == library) is not { } found) return Problems.Missing("library");
        if (library == StarterLibrary.Id) return Problems.Refused($"‘{found.Name}’ ships with the program and is for reading. Copy the template into a library of your own, and change it there.");
        return found.IsForReading ? Problems.Refused($"‘{found.Name}’ is for reading. Open it for writing first, or copy the template into another library.") : null;
    }

    private static PlaceView View(PlacingPlan plan) => new([.. plan.Rows.Take(500)], plan.Rows.Count, [.. plan.Records.GroupBy(r => r.Noun).Select(g => ChangeLabel.Count(g.Count(), g.Key))], plan.Refusals);
}
