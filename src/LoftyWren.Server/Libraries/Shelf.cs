using LoftyWren.Core.Templates;
using LoftyWren.Storage.Libraries;

namespace LoftyWren.Server.Libraries;

/// <summary>All libraries somebody may see: the one that ships, those of the installation, their own.</summary>
public sealed class Shelf(LibraryStore store)
{
    /// <summary>The store of those that can be written.</summary>
    public LibraryStore Store => store;

    /// <summary>The libraries a person may read.</summary>
    public IReadOnlyList<Library> For(string who) => [new Library(StarterLibrary.Id, "Starter", null, true), .. store.All().Where(l => l.Owner is null || l.Owner.Equals(who, StringComparison.OrdinalIgnoreCase))];

    /// <summary>Whether a person may write a library now: it is open for writing. The shipped one never is.</summary>
    public bool CanWrite(string who, string library) => For(who).Any(l => l.Id == library && !l.IsForReading);

    /// <summary>The newest templates of a library.</summary>
    public IReadOnlyList<TemplateHeading> Templates(string library) => library == StarterLibrary.Id
        ? [.. StarterLibrary.Templates.Select(t => new TemplateHeading(t.Id, t.Name, t.Folder, t.Author, t.Comment, t.Revision, 0)).OrderBy(t => t.Folder, StringComparer.Ordinal).ThenBy(t => t.Name, StringComparer.Ordinal)]
        : store.Templates(library);

    /// <summary>A template of a library that this person may read, or null.</summary>
    public Template? Find(string who, string library, string id, int? revision = null)
    {
        if (For(who).All(l => l.Id != library)) return null;
        return library == StarterLibrary.Id ? StarterLibrary.Templates.FirstOrDefault(t => t.Id == id && (revision is null || t.Revision == revision)) : store.Find(library, id, revision);
    }

    /// <summary>A template by the id a placement remembers.</summary>
    public Template? Placed(string id, int? revision = null) => StarterLibrary.Templates.FirstOrDefault(t => t.Id == id && (revision is null || t.Revision == revision)) ?? store.FindAnywhere(id, revision);

    /// <summary>A template by its name in a list, or by its id.</summary>
    public Template? Named(string who, string name)
    {
        foreach (Library library in For(who))
        {
            if (Templates(library.Id).FirstOrDefault(t => t.Name.Equals(name, StringComparison.OrdinalIgnoreCase) || t.Id == name) is { } heading) return Find(who, library.Id, heading.Id);
        }
        return null;
    }
}
