using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Xml;
using Bostel.Core.Tolerancing;

namespace Bostel.Reports;

/// <summary>
/// Results as Quality Information Framework XML (ISO 23952:2020, QIF 3.0): datums, the features that are toleranced, and of every
/// characteristic its definition, nominal, item and measurement. Lengths in mm, angles in degrees.
/// </summary>
public static class QifWriter
{
    private const string Space = "http://qifstandards.org/xsd/qif3";

    public static byte[] Write(ReportModel model)
    {
        using var memory = new MemoryStream();
        using (var xml = XmlWriter.Create(memory, new() { Encoding = new UTF8Encoding(false), Indent = true }))
        {
            new Document(xml, model).Write();
        }

        return memory.ToArray();
    }

    /// <summary>What the standard calls a kind: the first part of the names of its elements.</summary>
    private static string NameOf(CharacteristicPlan plan) => plan switch
    {
        DiameterPlan or SectionDiameterPlan => "Diameter",
        RadiusPlan or SectionRadiusPlan => "Radius",
        WidthPlan => "Width",
        DistancePlan or SectionDistancePlan or SectionGreatestPlan or SectionLeastPlan => "DistanceBetween",
        AnglePlan or SectionAnglePlan => "AngleBetween",
        ConeAnglePlan => "ConicalTaper",
        StraightnessPlan => "Straightness",
        FlatnessPlan => "Flatness",
        RoundnessPlan => "Circularity",
        CylindricityPlan => "Cylindricity",
        ParallelismPlan => "Parallelism",
        PerpendicularityPlan => "Perpendicularity",
        AngularityPlan => "Angularity",
        PositionPlan => "Position",
        CoaxialityPlan => "Coaxiality",
        SymmetryPlan => "Symmetry",
        CircularRunOutPlan => "CircularRunout",
        TotalRunOutPlan => "TotalRunout",
        LineProfilePlan => "LineProfile",
        SurfaceProfilePlan => "SurfaceProfile",
        _ => throw new InvalidOperationException($"{plan.Kind} has no name in the standard."),
    };

    private static string StatusOf(Verdict verdict) => verdict switch
    {
        Verdict.Conforming => "PASS",
        Verdict.NonConforming => "FAIL",
        Verdict.NotProven => "UNDEFINED",
        _ => "NOT_MEASURED",
    };

    private sealed class Document(XmlWriter xml, ReportModel model)
    {
        private readonly List<(CharacteristicResult Row, string Name, int Id)> _rows =
            [.. model.Rows.Select((r, i) => (r, NameOf(r.Plan), 100 + (4 * i)))];

        private readonly Dictionary<string, int> _datums =
            model.Plan.Datums.Select((d, i) => (d.Label, Id: 10 + i)).ToDictionary(d => d.Label, d => d.Id);

        private const int Part = 1, Results = 2;

        public void Write()
        {
            xml.WriteStartElement("QIFDocument", Space);
            xml.WriteAttributeString("versionQIF", "3.0.0");
            xml.WriteAttributeString("idMax", Text(_rows.Count > 0 ? _rows[^1].Id + 3 : 99));
            Element("QPId", StableId());
            Within("Header", () => Within("Application", () => Element("Name", "Bostel")));
            Units();
            List("DatumDefinitions", _datums.ToList(), d => Identified("DatumDefinition", d.Value, () => Element("DatumLabel", d.Key)));
            Within("Product", () => List("PartSet", (int[])[Part], id => Identified("Part", id, () =>
            {
                Element("Name", model.Header.Part);
                Within("Header", () => Element("Description", $"{model.Header.PartName}, revision {model.Header.Revision}"));
            })));
            Within("Characteristics", () =>
            {
                List("CharacteristicDefinitions", _rows, Definition);
                List("CharacteristicNominals", _rows, Nominal);
                List("CharacteristicItems", _rows, r => Identified($"{r.Name}CharacteristicItem", r.Id + 2, () =>
                {
                    Element("Name", r.Row.Plan.Name);
                    Element("CharacteristicNominalId", Text(r.Id + 1));
                }));
            });
            Within("MeasurementsResults", () => List("MeasurementResultsSet", (int[])[Results], id => Identified(
                "MeasurementResults", id, () =>
                {
                    Within("MeasuredCharacteristics", () => List("CharacteristicMeasurements", _rows, Measurement));
                    Within("ActualComponent", () => Element("SerialNumber", model.Header.Piece));
                    Within("InspectionStatus", () => Element("InspectionStatusEnum", StatusOf(model.Verdict)));
                })));
            xml.WriteEndElement();
        }

        private void Units() => Within("FileUnits", () => Within("PrimaryUnits", () =>
        {
            Unit("AngularUnit", "radian", "degree", Math.PI / 180);
            Unit("LinearUnit", "meter", "mm", 0.001);
        }));

        private void Unit(string kind, string si, string name, double factor) => Within(kind, () =>
        {
            Element("SIUnitName", si);
            Element("UnitName", name);
            Within("UnitConversion", () => Element("Factor", Text(factor)));
        });

        private void Definition((CharacteristicResult Row, string Name, int Id) r) =>
            Identified($"{r.Name}CharacteristicDefinition", r.Id, () =>
            {
                if (r.Row.Plan is GeometricalPlan geometrical)
                {
                    Element("ToleranceValue", Text(geometrical.Tolerance ?? 0));
                    List("DatumReferenceFrame", geometrical.Refers.Letters.Where(_datums.ContainsKey).ToList(),
                        letter => Within("Datum", () => Element("DatumDefinitionId", Text(_datums[letter]))), omitEmpty: true);
                    return;
                }

                Within("Tolerance", () =>
                {
                    Optional("MaxValue", r.Row.UpperLimit);
                    Optional("MinValue", r.Row.LowerLimit);
                    Element("DefinedAsLimit", "true");
                });
            });

        private void Nominal((CharacteristicResult Row, string Name, int Id) r) =>
            Identified($"{r.Name}CharacteristicNominal", r.Id + 1, () =>
            {
                Element("CharacteristicDefinitionId", Text(r.Id));
                Element("Name", Text(r.Row.Plan.No));
                if (r.Row.Plan is DimensionalPlan)
                {
                    Optional("TargetValue", r.Row.Nominal);
                }
            });

        private void Measurement((CharacteristicResult Row, string Name, int Id) r) =>
            Identified($"{r.Name}CharacteristicMeasurement", r.Id + 3, () =>
            {
                Within("Status", () => Element("CharacteristicStatusEnum", StatusOf(r.Row.Verdict)));
                Element("CharacteristicItemId", Text(r.Id + 2));
                if (r.Row.Measured is { } measured)
                {
                    xml.WriteStartElement("Value", Space);
                    if (r.Row.Uncertainty is { } u)
                    {
                        // Of one standard deviation.
                        xml.WriteAttributeString("combinedUncertainty", Text(u / 2));
                    }

                    xml.WriteString(Text(measured));
                    xml.WriteEndElement();
                }
            });

        /// <summary>The same report has the same id, whenever it is written.</summary>
        private string StableId()
        {
            var h = model.Header;
            var hash = SHA256.HashData(Encoding.UTF8.GetBytes($"{h.Number} {h.Part} {h.Piece} {h.Date:O}"));
            return new Guid(hash[..16]).ToString();
        }

        private void Within(string name, Action content)
        {
            xml.WriteStartElement(name, Space);
            content();
            xml.WriteEndElement();
        }

        private void Identified(string name, int id, Action content)
        {
            xml.WriteStartElement(name, Space);
            xml.WriteAttributeString("id", Text(id));
            content();
            xml.WriteEndElement();
        }

        private void List<T>(string name, IReadOnlyList<T> items, Action<T> each, bool omitEmpty = false)
        {
            if (items.Count == 0 && omitEmpty)
            {
                return;
            }

            xml.WriteStartElement(name, Space);
            xml.WriteAttributeString("n", Text(items.Count));
            foreach (var item in items)
            {
                each(item);
            }

            xml.WriteEndElement();
        }

        private void Element(string name, string text) => xml.WriteElementString(name, Space, Wording.InXml(text));

        private void Optional(string name, double? value)
        {
            if (value is { } v)
            {
                Element(name, Text(v));
            }
        }

        private static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);

        private static string Text(double number) => number.ToString("R", CultureInfo.InvariantCulture);
    }
}
