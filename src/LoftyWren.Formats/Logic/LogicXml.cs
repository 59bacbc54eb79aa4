using System.Globalization;
using System.Text.Json;
using System.Xml;
using System.Xml.Linq;
using LoftyWren.Core.Points;
using LoftyWren.Core.Projects;
using LoftyWren.Core.Records;
using LoftyWren.Core.Schedules;
using LoftyWren.Core.Sequences;

namespace LoftyWren.Formats.Logic;

/// <summary>Something that could not be taken over as it was, and what became of it.</summary>
public sealed record LogicNote(string What, string Why);

/// <summary>What a diagram comes to in a sequence, and all that could not be taken over.</summary>
public sealed record LogicReading(Sequence Sequence, IReadOnlyList<LogicNote> Notes);

/// <summary>
/// The logic of a sequence as a function block diagram in the XML of IEC 61131-10. Blocks that the standard has are written
/// under its names, others under ours; what the standard has no word for (settings, units, priorities) stands in the additional
/// data that it provides for that, so that what was written here is read back to the very same.
/// </summary>
public static class LogicXml
{
    /// <summary>The most characters that are read, and the most objects of one diagram.</summary>
    public const int MostCharacters = 4_000_000, MostObjects = 4000, MostDepth = 200;

    private static readonly XNamespace Iec = "www.iec.ch/public/TC65SC65BWG7TF10", Xsi = "http://www.w3.org/2001/XMLSchema-instance", Own = "urn:lofty-wren:logic";

    /// <summary>The diagram as a file; the date is that at which it is written.</summary>
    public static byte[] Write(Project project, Sequence sequence, DateTimeOffset at) => new Writer(project, sequence).Write(at);

    /// <summary>What a diagram comes to in place of the logic of a sequence; its clauses and tests stay.</summary>
    /// <exception cref="FormatException">It is no such XML; the message says where and what to do.</exception>
    /// <exception cref="OperationCanceledException">Nobody waits for it any more.</exception>
    public static LogicReading Read(Project project, Sequence sequence, string xml, CancellationToken stop = default) => new Reader(project, sequence, Load(xml, stop)).Read();

    private static XElement Load(string xml, CancellationToken stop)
    {
        if (xml.Length > MostCharacters) throw new FormatException($"The file has {xml.Length} characters; at most {MostCharacters} are read.");
        try
        {
            // No document type and nothing from elsewhere: what a file says is all there is to it.
            var settings = new XmlReaderSettings { DtdProcessing = DtdProcessing.Prohibit, XmlResolver = null, MaxCharactersInDocument = MostCharacters };
            using (var looked = XmlReader.Create(new StringReader(xml), settings))
            {
                // Once through it first: what is nested without end is refused before anything is made of it.
                while (looked.Read())
                {
                    stop.ThrowIfCancellationRequested();
                    if (looked.Depth > MostDepth) throw new FormatException($"Elements go deeper than {MostDepth} levels at line {((IXmlLineInfo)looked).LineNumber}. A diagram needs a tenth of that; export it again.");
                }
            }
            using var reader = XmlReader.Create(new StringReader(xml), settings);
            XElement root = XDocument.Load(reader).Root!;
            if (root.Name.LocalName != "Project") throw new FormatException($"The file begins with ‘{root.Name.LocalName}’, not with a Project as IEC 61131-10 has it. Export the program as IEC 61131-10 XML.");
            return root;
        }
        catch (XmlException e)
        {
            throw new FormatException($"This is no XML that can be read: line {e.LineNumber}, place {e.LinePosition}: {e.Message}", e);
        }
    }

    /// <summary>The form of records in letters that every XML can hold.</summary>
    private static readonly JsonSerializerOptions Plain = new(RecordJson.Options) { Encoder = System.Text.Encodings.Web.JavaScriptEncoder.Default };

    private sealed record ClaimData(RecordId PointId, int? Priority, string? Label);

    private static XElement Data(object value) => new(Iec + "AddData", new XElement(Iec + "Data", new XAttribute("name", Own.NamespaceName), new XAttribute("handleUnknown", "discard"), new XElement(Own + "Json", value is Source source ? JsonSerializer.Serialize(source, Plain) : JsonSerializer.Serialize(value, Plain))));

    private static XElement Place(XElement element, int column, int row, params object?[] rest)
    {
        element.Add(new XElement(Iec + "RelPosition", new XAttribute("x", 40 + (column * 240)), new XAttribute("y", 40 + (row * 80))));
        element.Add(rest);
        return element;
    }

    private sealed class Writer(Project project, Sequence sequence)
    {
        private readonly LogicProgram _program = new(project, sequence);
        private readonly Dictionary<(string Block, string Pin), int> _outs = [];
        private readonly Dictionary<(Source Source, string Type), int> _sources = [];
        private readonly Dictionary<string, int> _literals = [];
        private readonly List<XElement> _objects = [];
        private int _next = 1, _conversions;

        public byte[] Write(DateTimeOffset at)
        {
            foreach (Block block in sequence.Blocks)
            {
                foreach (Pin pin in BlockType.Of(block).Outputs) _outs[(block.Id, pin.Name)] = _next++;
            }
            int order = 1;
            foreach (Block block in sequence.Blocks)
            {
                StandardBlock? standard = StandardBlock.Of(block.Kind);
                BlockType type = BlockType.Of(block);
                var inputs = block.Inputs.Select(i => (Name: StandardBlock.Theirs(standard?.Inputs, i.Key), In: In(i.Value, _program.Network.Wanted(block, i.Key), block.Id, i.Key))).ToList();
                if (standard is not null) inputs.AddRange(standard.Settings.Select(s => (s.Theirs, (XElement?)In(new ConstantSource(type.Number(block, s.Ours)), standard.SettingType(s.Type, block), "", ""))));
                else if (block.Table is null && block.Inside is null) inputs.AddRange(Network.Settings(block).Select(s => (s.Name, (XElement?)Joined(Literal(s.Initial!)))));
                _objects.Add(Place(new XElement(Iec + "FbdObject", new XAttribute(Xsi + "type", "Block"), new XAttribute("globalId", $"b{order}"), new XAttribute("typeName", _program.Network.TypeOf(block)), standard?.IsFunction == true ? null : new XAttribute("instanceName", _program.Network.NameOf(block)), new XAttribute("evaluationOrder", order), Data(block with { Inputs = new Dictionary<string, Source>() })), 1, order++,
                    new XElement(Iec + "InputVariables", inputs.Select(i => new XElement(Iec + "InputVariable", new XAttribute("parameterName", i.Name), i.In))),
                    new XElement(Iec + "OutputVariables", type.Outputs.Select(p => new XElement(Iec + "OutputVariable", new XAttribute("parameterName", StandardBlock.OutputName(standard?.Outputs, type, p.Name)), new XElement(Iec + "ConnectionPointOut", new XAttribute("connectionPointOutId", _outs[(block.Id, p.Name)])))))));
            }
            int sinks = 0;
            foreach (OutputCommand command in sequence.Commands)
            {
                // An output without a claim is one all the same.
                foreach (Claim? claim in command.Claims.Count == 0 ? [null] : command.Claims.Cast<Claim?>())
                    _objects.Add(Place(new XElement(Iec + "FbdObject", new XAttribute(Xsi + "type", "DataSink"), new XAttribute("globalId", $"c{sinks + 1}"), new XAttribute("identifier", claim is null ? _program.Identifiers.Of(new PointSource(command.PointId)) : _program.ClaimName(command, claim)), Data(new ClaimData(command.PointId, claim?.Priority, claim?.Label))), 2, sinks++,
                        claim?.Source is { } source ? In(source, _program.ClaimType(command), "", $"{command.PointId}@{claim.Priority}") : null));
            }
            Pou main = _program.Program;
            var document = new XDocument(new XDeclaration("1.0", "utf-8", null), new XElement(Iec + "Project", new XAttribute(XNamespace.Xmlns + "xsi", Xsi), new XAttribute("schemaVersion", "1.0"),
                new XElement(Iec + "FileHeader", new XAttribute("companyName", "Lofty Wren"), new XAttribute("productName", "Lofty Wren"), new XAttribute("productVersion", "1")),
                new XElement(Iec + "ContentHeader", new XAttribute("name", string.Concat(sequence.Name.Where(XmlConvert.IsXmlChar))), new XAttribute("creationDateTime", at.UtcDateTime.ToString("yyyy-MM-ddTHH:mm:ssZ", CultureInfo.InvariantCulture))),
                new XElement(Iec + "Types", new XElement(Iec + "GlobalNamespace", _program.Units.Select(Unit), new XElement(Iec + "Program", new XAttribute("name", main.Name),
                    new XElement(Iec + "ExternalVars", _program.Globals.Select(Variable)),
                    _program.Network.Sections.Where(s => s.Variables.Any(IsInstance)).Select(s => new XElement(Iec + "Vars", s.Head.EndsWith("RETAIN", StringComparison.Ordinal) ? new XAttribute("retain", "true") : null, s.Variables.Where(IsInstance).Select(Variable))),
                    new XElement(Iec + "MainBody", new XElement(Iec + "BodyContent", new XAttribute(Xsi + "type", "FBD"), new XElement(Iec + "Network", new XAttribute("evaluationOrder", 1), _objects)))))),
                new XElement(Iec + "Instances", new XElement(Iec + "Configuration", new XAttribute("name", "LW_Configuration"),
                    new XElement(Iec + "Resource", new XAttribute("name", "LW_Resource"), new XAttribute("resourceTypeName", "LW_Controller"),
                        new XElement(Iec + "Task", new XAttribute("name", "LW_Scan"), new XAttribute("interval", Literals.Time(sequence.ScanSeconds)), new XAttribute("priority", 1)),
                        new XElement(Iec + "ProgramInstance", new XAttribute("name", "LW_Instance"), new XAttribute("typeName", main.Name), new XAttribute("associatedTaskName", "LW_Scan"))),
                    new XElement(Iec + "GlobalVars", _program.Globals.Select(Variable))))));
            using var stream = new MemoryStream();
            // Without a mark at its beginning, which some readers take for text.
            using (var writer = XmlWriter.Create(stream, new XmlWriterSettings { Indent = true, Encoding = new System.Text.UTF8Encoding(false) })) document.Save(writer);
            return stream.ToArray();
        }

        /// <summary>In a diagram the result of a function goes straight to what reads it, and needs no variable.</summary>
        private bool IsInstance(Variable variable) => sequence.Blocks.Any(b => StandardBlock.Of(b.Kind) is not { IsFunction: true } && _program.Network.NameOf(b) == variable.Name);

        /// <summary>The place where a value comes out in a type; null where there is nothing.</summary>
        private int? From(Source source, string wanted, string block, string pin)
        {
            var conversion = _program.Typing.Conversions.GetValueOrDefault(_program.Network.PlainPin(block, pin));
            string own = source is ConstantSource ? conversion is null ? wanted : "REAL" : _program.Network.Of(source)?.Type ?? wanted;
            int from;
            if (source is BlockSource b)
            {
                if (!_outs.TryGetValue((b.BlockId, b.Pin), out from)) return null;
            }
            else if (!_sources.TryGetValue((source, own), out from))
                from = _sources[(source, own)] = Given(source is ConstantSource constant ? Literals.Of(constant.Value, own) : _program.Identifiers.Of(source), Data(source));
            return _program.Through(own, wanted, conversion).Aggregate(from, Through);
        }

        private XElement? In(Source source, string wanted, string block, string pin) => From(source, wanted, block, pin) is { } from ? Joined(from) : null;

        private static XElement Joined(int from) => new(Iec + "ConnectionPointIn", new XElement(Iec + "Connection", new XAttribute("refConnectionPointOutId", from)));

        private int Literal(string text) => _literals.TryGetValue(text, out int known) ? known : _literals[text] = Given(text, null);

        private int Given(string identifier, XElement? data)
        {
            _objects.Add(Place(new XElement(Iec + "FbdObject", new XAttribute(Xsi + "type", "DataSource"), new XAttribute("globalId", $"s{_next}"), new XAttribute("identifier", identifier), data), 0, _sources.Count + _literals.Count,
                new XElement(Iec + "ConnectionPointOut", new XAttribute("connectionPointOutId", _next))));
            return _next++;
        }

        /// <summary>A function that a value goes through to be of another type or unit.</summary>
        private int Through(int from, string function)
        {
            _objects.Add(Place(new XElement(Iec + "FbdObject", new XAttribute(Xsi + "type", "Block"), new XAttribute("globalId", $"t{++_conversions}"), new XAttribute("typeName", function)), 1, sequence.Blocks.Count + _conversions,
                new XElement(Iec + "InputVariables", new XElement(Iec + "InputVariable", new XAttribute("parameterName", "IN"), Joined(from))),
                new XElement(Iec + "OutputVariables", new XElement(Iec + "OutputVariable", new XAttribute("parameterName", "OUT"), new XElement(Iec + "ConnectionPointOut", new XAttribute("connectionPointOutId", _next))))));
            return _next++;
        }

        private static XElement Unit(Pou unit)
        {
            int place = 0;
            XElement Parameters(string element, string head) => new(Iec + element, unit.Of(head).Select(v => Variable(v, new XAttribute("orderWithinParamSet", ++place))));
            return new XElement(Iec + (unit.Kind == "FUNCTION" ? "Function" : "FunctionBlock"), new XAttribute("name", unit.Name), Documentation(unit.Comment),
                new XElement(Iec + "Parameters", unit.Returns is { } result ? new XElement(Iec + "ResultType", new XElement(Iec + "TypeName", result)) : null, Parameters("InputVars", "VAR_INPUT"), Parameters("OutputVars", "VAR_OUTPUT")),
                unit.Sections.Where(s => s.Head.StartsWith("VAR ", StringComparison.Ordinal) || s.Head == "VAR").Where(s => s.Variables.Count > 0).Select(s => new XElement(Iec + "Vars", s.Head.EndsWith("CONSTANT", StringComparison.Ordinal) ? new XAttribute("constant", "true") : s.Head.EndsWith("RETAIN", StringComparison.Ordinal) ? new XAttribute("retain", "true") : null, s.Variables.Select(Variable))),
                new XElement(Iec + "MainBody", new XElement(Iec + "BodyContent", new XAttribute(Xsi + "type", "ST"), new XElement(Iec + "ST", unit.BodyText()))));
        }

        private static XElement Variable(Variable variable) => Variable(variable, null);

        private static XElement Variable(Variable variable, XAttribute? more) => new(Iec + "Variable", new XAttribute("name", variable.Name), more, Documentation(variable.Comment), new XElement(Iec + "Type", new XElement(Iec + "TypeName", variable.Type)),
            variable.Initial is { } initial ? new XElement(Iec + "InitialValue", new XElement(Iec + "SimpleValue", new XAttribute("value", initial))) : null);

        private static XElement? Documentation(string? words) => string.IsNullOrEmpty(words) ? null : new XElement(Iec + "Documentation", new XAttribute(Xsi + "type", "SimpleText"), string.Concat(words.Where(XmlConvert.IsXmlChar)));
    }

    /// <summary>Reads one diagram. What it leaves open it says.</summary>
    private sealed class Reader(Project project, Sequence sequence, XElement root)
    {
        private const int MostHops = 16;

        private readonly List<LogicNote> _notes = [];
        private readonly Identifiers _identifiers = new(project, sequence);
        private readonly Dictionary<string, Source> _outs = [];
        // By what a variable is given from, and by the place at which one is read that is called like nothing near.
        private readonly Dictionary<string, string> _given = new(StringComparer.OrdinalIgnoreCase), _unknown = [];
        private readonly List<(Block Block, StandardBlock? Standard, bool IsOurs, XElement Element)> _blocks = [];
        private readonly Dictionary<string, string?> _through = [];
        private readonly HashSet<(string Kind, string Name)> _units = [.. root.Descendants().Where(e => e.Name.LocalName is "Function" or "FunctionBlock").Select(e => (e.Name.LocalName, e.Attribute("name")?.Value ?? ""))];
        private readonly HashSet<string> _ids = [];
        private readonly List<Block> _nots = [];

        public LogicReading Read()
        {
            var bodies = root.Descendants().Where(e => e.Name.LocalName == "BodyContent").ToList();
            XElement body = bodies.FirstOrDefault(b => IsDiagram(b) && !NameOf(b).StartsWith(NameScope.Own, StringComparison.Ordinal)) ?? throw new FormatException(bodies.Count == 0 ? "The file holds no program." : "The file holds no function block diagram; other languages are not read. Export the program as a function block diagram.");
            foreach (XElement other in bodies.Where(b => b != body && !NameOf(b).StartsWith(NameScope.Own, StringComparison.Ordinal))) Note($"Program ‘{NameOf(other)}’", IsDiagram(other) ? "One diagram is read at a time; this one was left out." : "It is no function block diagram, and was left out.");
            var objects = body.Descendants().Where(e => e.Name.LocalName == "FbdObject").ToList();
            if (objects.Count > MostObjects) throw new FormatException($"The diagram has {objects.Count} objects; at most {MostObjects} are read.");
            foreach (XElement element in objects)
            {
                string kind = Kind(element);
                if (kind == "Block") ReadBlock(element);
                else if (kind == "DataSource") ReadSource(element);
                else if (kind == "DataSink" && Text(element, "identifier") is { } variable && Refers(element) is { } from) _given[variable] = from;
                else if (kind != "DataSink") Note($"‘{kind}’", "Such an object has no place in a sequence, and was left out.");
            }
            List<Block> blocks = [.. _blocks.Select(Connected)];
            var commands = Commands(objects.Where(e => Kind(e) == "DataSink").ToList());
            blocks.AddRange(_nots);
            var there = blocks.Select(b => b.Id).ToHashSet();
            Sequence read = sequence with
            {
                Blocks = blocks,
                Commands = commands,
                Clauses = [.. sequence.Clauses.Select(c => c.Blocks.All(there.Contains) ? c : c with { Blocks = [.. c.Blocks.Where(there.Contains)] })],
            };
            // What is more than a sequence may hold is refused as a whole when it is kept.
            if (blocks.Count > Sequence.MostBlocks || blocks.Sum(b => (long)b.Calculated) > Sequence.MostCalculated) Note("The diagram", $"It has {blocks.Count} blocks, which is more than one sequence holds. Split it.");
            else
            {
                foreach (TypeProblem problem in Typing.Of(read, project).Problems) Note("What does not fit", problem.Sentence);
            }
            return new LogicReading(read, _notes);
        }

        private void Note(string what, string why) => _notes.Add(new(what, why));

        private static string? Text(XElement element, string attribute) => element.Attribute(attribute)?.Value;

        private static string Kind(XElement element) => (element.Attribute(Xsi + "type")?.Value ?? "").Split(':')[^1];

        private static bool IsDiagram(XElement body) => Kind(body) == "FBD";

        private static string NameOf(XElement body) => body.Ancestors().Select(a => Text(a, "name")).OfType<string>().FirstOrDefault() ?? "without a name";

        /// <summary>The place that an input is connected to, or null.</summary>
        private static string? Refers(XElement element) => element.Elements().FirstOrDefault(e => e.Name.LocalName == "ConnectionPointIn")?.Elements().Where(e => e.Name.LocalName == "Connection").Select(e => Text(e, "refConnectionPointOutId")).FirstOrDefault();

        private static T? Ours<T>(XElement element)
            where T : class
        {
            string? json = element.Elements().Where(e => e.Name.LocalName == "AddData").Descendants(Own + "Json").FirstOrDefault()?.Value;
            if (json is null) return null;
            try
            {
                return JsonSerializer.Deserialize<T>(json, RecordJson.Options);
            }
            catch (Exception e) when (e is JsonException or NotSupportedException)
            {
                return null;
            }
        }

        /// <summary>Whether a unit that was written with the diagram is one of ours.</summary>
        private bool IsDeclared(string type, string kind) => type.StartsWith(NameScope.Own, StringComparison.Ordinal) && _units.Contains((kind, type));

        private string Free(string wanted)
        {
            string id = RecordId.IsValid(wanted) ? wanted : "block";
            for (int n = 2; !_ids.Add(id); n++) id = $"{(wanted.Length is > 0 and < 50 && RecordId.IsValid(wanted) ? wanted : "block")}-{n}";
            return id;
        }

        private void ReadBlock(XElement element)
        {
            string type = Text(element, "typeName") ?? "";
            Block? ours = Ours<Block>(element);
            // What a value goes through to be of another type is the line itself here.
            if (ours is null && (type.Contains("_TO_", StringComparison.OrdinalIgnoreCase) || IsDeclared(type, "Function")))
            {
                foreach (string id in element.Descendants().Where(e => e.Name.LocalName == "ConnectionPointOut").Select(e => Text(e, "connectionPointOutId")).OfType<string>()) _through[id] = element.Descendants().Where(e => e.Name.LocalName == "InputVariable").Select(Refers).FirstOrDefault();
                return;
            }
            if (ours is not null && ((StandardBlock.Of(ours.Kind) is { } kind ? kind.TypeFor(ours) != type : !IsDeclared(type, "FunctionBlock")) || Sequence.Wrong(ours).Any())) ours = null;
            StandardBlock? standard = ours is null ? StandardBlock.Named(type) : StandardBlock.Of(ours.Kind);
            if (ours is null && standard is null)
            {
                Note($"Block ‘{type}’{(Text(element, "instanceName") is { } instance ? $" ({instance})" : "")}", "There is no such block here. It was left out, and what it fed is open.");
                return;
            }
            Block block = ours is not null ? ours with { Id = Free(ours.Id) }
                : new Block { Id = Free(standard!.Type.ToLowerInvariant().Replace('_', '-')), Kind = standard.Kind, Label = Text(element, "instanceName")?.Replace('_', ' ') is { Length: > 0 and <= 60 } label ? label : null };
            _blocks.Add((block, standard, ours is not null, element));
            foreach (XElement output in element.Descendants().Where(e => e.Name.LocalName == "OutputVariable"))
            {
                if (output.Descendants().FirstOrDefault(e => e.Name.LocalName == "ConnectionPointOut") is not { } point || Text(point, "connectionPointOutId") is not { } id) continue;
                string name = Text(output, "parameterName") ?? "";
                // The one result of a function goes by several names.
                string? pin = BlockType.Of(block).Outputs.FirstOrDefault(p => StandardBlock.OutputName(standard?.Outputs, BlockType.Of(block), p.Name).Equals(name, StringComparison.OrdinalIgnoreCase))?.Name ?? (standard is { IsFunction: true } ? "out" : null);
                if (pin is null) Note($"Output {name} of ‘{block.Called()}’", "There is no such output here. What it fed is open.");
                else _outs[id] = new BlockSource(block.Id, pin);
            }
        }

        private void ReadSource(XElement element)
        {
            if (element.Descendants().Where(e => e.Name.LocalName == "ConnectionPointOut").Select(e => Text(e, "connectionPointOutId")).FirstOrDefault() is not { } id) return;
            string identifier = Text(element, "identifier") ?? "";
            Source? source = Ours<Source>(element) switch
            {
                ConstantSource constant => constant,
                PointSource p when project.Find<Point>(p.PointId) is not null => p,
                ScheduleSource s when project.Find<Schedule>(s.ScheduleId) is not null => s,
                _ => Literals.Read(identifier) ?? _identifiers.Named(identifier),
            };
            if (source is not null) _outs[id] = source;
            else _unknown[id] = identifier;
        }

        /// <summary>What comes from a place: an output of a block, a value, or what another variable is given.</summary>
        private Source? From(string? id, string what, int depth = 0)
        {
            if (id is null) return null;
            if (_outs.TryGetValue(id, out Source? source)) return source;
            if (_through.TryGetValue(id, out string? before)) return depth < MostHops ? From(before, what, depth + 1) : null;
            if (_unknown.TryGetValue(id, out string? variable))
            {
                if (depth < MostHops && _given.TryGetValue(variable, out string? given)) return From(given, what, depth + 1);
                Note($"‘{variable}’", $"Nothing near is called so; {what} is open. Connect it by hand.");
            }
            else if (depth == 0) Note(what[..1].ToUpperInvariant() + what[1..], "What it is connected to was left out, so it is open.");
            return null;
        }

        private Block Connected((Block Block, StandardBlock? Standard, bool IsOurs, XElement Element) read)
        {
            var (block, standard, isOurs, element) = read;
            BlockType type = BlockType.Of(block);
            var inputs = new Dictionary<string, Source>();
            var numbers = new Dictionary<string, double>(block.Numbers);
            foreach (XElement input in element.Descendants().Where(e => e.Name.LocalName == "InputVariable"))
            {
                string name = Text(input, "parameterName") ?? "";
                if (Refers(input) is not { } from) continue;
                // Blocks of ours have words for their inputs.
                string said = (standard is null ? type.Inputs.FirstOrDefault(p => StandardBlock.Theirs(null, p.Name) == name)?.Label : null) ?? name, what = $"input {said} of ‘{block.Called()}’";
                if (standard?.Settings.FirstOrDefault(s => s.Theirs.Equals(name, StringComparison.OrdinalIgnoreCase)) is { Ours: { } setting })
                {
                    if (isOurs) continue;
                    if (From(from, what) is ConstantSource fixedValue) numbers[setting] = fixedValue.Value;
                    else Note(what[..1].ToUpperInvariant() + what[1..], "It is a setting here, which nothing can be connected to; it is as it begins.");
                    continue;
                }
                string? pin = StandardBlock.Ours(standard?.Inputs, type.Inputs, name);
                if (pin is null)
                {
                    // The settings of a block of ours came with it.
                    if (isOurs) continue;
                    Note(what[..1].ToUpperInvariant() + what[1..], "There is no such input here, and what it is connected to was left out.");
                    continue;
                }
                if (From(from, what) is not { } source) continue;
                inputs[pin] = Text(input, "negated") == "true" ? Not(source) : source;
            }
            return block with { Inputs = inputs, Numbers = numbers };
        }

        private BlockSource Not(Source source)
        {
            var not = new Block { Id = Free("not"), Kind = BlockKind.Not, Inputs = new Dictionary<string, Source> { ["in"] = source } };
            _nots.Add(not);
            return new BlockSource(not.Id);
        }

        /// <summary>The point that a variable commands, and at which priority where its name says so.</summary>
        private (RecordId? Point, int? Priority) Claimed(string identifier)
        {
            if (_identifiers.Named(identifier) is PointSource whole) return (whole.PointId, null);
            int at = identifier.LastIndexOf("_P", StringComparison.OrdinalIgnoreCase);
            bool says = at > 0 && int.TryParse(identifier.AsSpan(at + 2), NumberStyles.None, CultureInfo.InvariantCulture, out int priority) && priority is >= 1 and <= 16;
            return says && _identifiers.Named(identifier[..at]) is PointSource point ? (point.PointId, int.Parse(identifier.AsSpan(at + 2), NumberStyles.None, CultureInfo.InvariantCulture)) : (null, null);
        }

        private List<OutputCommand> Commands(List<XElement> sinks)
        {
            var commands = new List<OutputCommand>();
            var read = _unknown.Values.ToHashSet(StringComparer.OrdinalIgnoreCase);
            foreach (XElement sink in sinks)
            {
                string identifier = Text(sink, "identifier") ?? "";
                ClaimData? ours = Ours<ClaimData>(sink);
                var (claimed, priorityThere) = Claimed(identifier);
                RecordId? point = ours is not null && project.Find<Point>(ours.PointId) is not null ? ours.PointId : claimed;
                if (point is not { } id || project.Find<Point>(id) is not { Role: not PointRole.Sensor })
                {
                    // A variable that only goes from one part of the diagram to another is no output.
                    if (!read.Contains(identifier)) Note($"Output ‘{identifier}’", point is null ? "Nothing near is called so; its claim was left out. Add the output, and connect it by hand." : "It is a sensor, which cannot be commanded; its claim was left out.");
                    continue;
                }
                int at = commands.FindIndex(c => c.PointId == id);
                if (at < 0) (at, commands) = (commands.Count, [.. commands, new OutputCommand { PointId = id }]);
                if (ours is { Priority: null }) continue;
                var taken = commands[at].Claims.Select(c => c.Priority).ToList();
                if (((ours?.Priority ?? priorityThere) is { } wanted && !taken.Contains(wanted) ? wanted : Sequence.FreePriority(taken)) is not { } priority)
                {
                    Note($"Output ‘{identifier}’", "It is claimed more often than there are priorities that logic should take; a claim was left out.");
                    continue;
                }
                commands[at] = commands[at] with { Claims = [.. commands[at].Claims, new Claim { Priority = priority, Label = ours?.Label, Source = From(Refers(sink), $"the claim on ‘{identifier}’") }] };
            }
            return commands;
        }
    }
}
