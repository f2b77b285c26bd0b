// What a STEP AP242 file says about the faces beyond their geometry (ISO 10303-242): datums, dimensions, geometrical tolerances, as JSON.
// It judges nothing; kinds are numbers of the kernel's own enumerations, spelled out.
#pragma once
#include <TCollection_HAsciiString.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <XCAFDimTolObjects_DatumObject.hxx>
#include <XCAFDimTolObjects_DimensionObject.hxx>
#include <XCAFDimTolObjects_GeomToleranceObject.hxx>
#include <XCAFDoc_Datum.hxx>
#include <XCAFDoc_DimTolTool.hxx>
#include <XCAFDoc_Dimension.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_GeomTolerance.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <cmath>
#include <set>
#include <sstream>
#include <string>

namespace information {

inline std::string quoted(const std::string& text) {
    std::string out = "\"";
    for (const unsigned char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        out += c < 32 ? ' ' : static_cast<char>(c);
    }
    return out + "\"";
}

inline std::string text(const Handle(TCollection_HAsciiString)& value) { return quoted(value.IsNull() ? "" : value->ToCString()); }

// Numbers of the faces of the shapes that a label refers to, in the order of the file's faces.
inline std::string facesOf(const Handle(XCAFDoc_ShapeTool)& shapes, const TDF_LabelSequence& labels, const TopTools_IndexedMapOfShape& faces) {
    std::set<int> found;
    for (int i = 1; i <= labels.Length(); ++i)
        for (TopExp_Explorer f(shapes->GetShape(labels(i)), TopAbs_FACE); f.More(); f.Next())
            for (int n = 1; n <= faces.Extent(); ++n)
                if (faces(n).IsPartner(f.Current())) found.insert(n - 1);
    std::string json = "[";
    for (const int n : found) json += (json.size() > 1 ? "," : "") + std::to_string(n);
    return json + "]";
}

inline const char* dimensionKind(XCAFDimTolObjects_DimensionType type) {
    switch (type) {
        case XCAFDimTolObjects_DimensionType_Size_Diameter:
        case XCAFDimTolObjects_DimensionType_Size_SphericalDiameter: return "diameter";
        case XCAFDimTolObjects_DimensionType_Size_Radius:
        case XCAFDimTolObjects_DimensionType_Size_SphericalRadius: return "radius";
        case XCAFDimTolObjects_DimensionType_Location_Angular:
        case XCAFDimTolObjects_DimensionType_Size_Angular: return "angle";
        case XCAFDimTolObjects_DimensionType_Location_None:
        case XCAFDimTolObjects_DimensionType_Location_CurvedDistance:
        case XCAFDimTolObjects_DimensionType_Location_WithPath:
        case XCAFDimTolObjects_DimensionType_CommonLabel:
        case XCAFDimTolObjects_DimensionType_DimensionPresentation: return "other";
        case XCAFDimTolObjects_DimensionType_Size_Thickness: return "distance";
        default: return type < XCAFDimTolObjects_DimensionType_Location_Angular ? "distance" : "other";
    }
}

inline const char* toleranceKind(XCAFDimTolObjects_GeomToleranceType type) {
    switch (type) {
        case XCAFDimTolObjects_GeomToleranceType_Angularity: return "angularity";
        case XCAFDimTolObjects_GeomToleranceType_CircularRunout: return "circularRunOut";
        case XCAFDimTolObjects_GeomToleranceType_CircularityOrRoundness: return "roundness";
        case XCAFDimTolObjects_GeomToleranceType_Coaxiality: return "coaxiality";
        case XCAFDimTolObjects_GeomToleranceType_Concentricity: return "concentricity";
        case XCAFDimTolObjects_GeomToleranceType_Cylindricity: return "cylindricity";
        case XCAFDimTolObjects_GeomToleranceType_Flatness: return "flatness";
        case XCAFDimTolObjects_GeomToleranceType_Parallelism: return "parallelism";
        case XCAFDimTolObjects_GeomToleranceType_Perpendicularity: return "perpendicularity";
        case XCAFDimTolObjects_GeomToleranceType_Position: return "position";
        case XCAFDimTolObjects_GeomToleranceType_ProfileOfLine: return "profileOfLine";
        case XCAFDimTolObjects_GeomToleranceType_ProfileOfSurface: return "profileOfSurface";
        case XCAFDimTolObjects_GeomToleranceType_Straightness: return "straightness";
        case XCAFDimTolObjects_GeomToleranceType_Symmetry: return "symmetry";
        case XCAFDimTolObjects_GeomToleranceType_TotalRunout: return "totalRunOut";
        default: return "other";
    }
}

// What a tolerance says beyond its value: each named, so that none is lost in silence.
inline std::string modifiersOf(const Handle(XCAFDimTolObjects_GeomToleranceObject)& tolerance) {
    static const char* const names[] = {"any cross-section", "common zone", "each radial element", "free state", "L", "line element",
        "major diameter", "M", "minor diameter", "not convex", "pitch diameter", "reciprocity", "separate requirement", "statistical",
        "tangent plane", "all around", "all over"};
    std::string json = "[";
    auto add = [&](const std::string& name) { json += (json.size() > 1 ? "," : "") + quoted(name); };
    const auto& modifiers = tolerance->GetModifiers();
    for (int i = 1; i <= modifiers.Length(); ++i) {
        const auto m = modifiers(i);
        if (m != XCAFDimTolObjects_GeomToleranceModif_Maximum_Material_Requirement && m != XCAFDimTolObjects_GeomToleranceModif_Least_Material_Requirement)
            add(names[m]);
    }
    if (tolerance->GetZoneModifier() == XCAFDimTolObjects_GeomToleranceZoneModif_Projected) add("projected zone");
    if (tolerance->GetZoneModifier() == XCAFDimTolObjects_GeomToleranceZoneModif_NonUniform) add("non-uniform zone");
    return json + "]";
}

inline const char* materialOf(const Handle(XCAFDimTolObjects_GeomToleranceObject)& tolerance) {
    auto material = tolerance->GetMaterialRequirementModifier();
    const auto& modifiers = tolerance->GetModifiers();
    for (int i = 1; i <= modifiers.Length(); ++i) {
        if (modifiers(i) == XCAFDimTolObjects_GeomToleranceModif_Maximum_Material_Requirement) material = XCAFDimTolObjects_GeomToleranceMatReqModif_M;
        if (modifiers(i) == XCAFDimTolObjects_GeomToleranceModif_Least_Material_Requirement) material = XCAFDimTolObjects_GeomToleranceMatReqModif_L;
    }
    return material == XCAFDimTolObjects_GeomToleranceMatReqModif_M ? "\"maximum\"" : material == XCAFDimTolObjects_GeomToleranceMatReqModif_L ? "\"least\"" : "null";
}

inline std::string datumReference(const Handle(XCAFDimTolObjects_DatumObject)& datum) {
    const char* material = "null";
    const auto& modifiers = datum->GetModifiers();
    for (int i = 1; i <= modifiers.Length(); ++i) {
        if (modifiers(i) == XCAFDimTolObjects_DatumSingleModif_MaximumMaterialRequirement) material = "\"maximum\"";
        if (modifiers(i) == XCAFDimTolObjects_DatumSingleModif_LeastMaterialRequirement) material = "\"least\"";
    }
    return "{\"label\":" + text(datum->GetName()) + ",\"material\":" + material + ",\"position\":" + std::to_string(datum->GetPosition()) + "}";
}

// {"datums":[…],"dimensions":[…],"tolerances":[…]}; limits of dimensions as signed deviations from their value.
inline std::string of(const Handle(TDocStd_Document)& document, const TopTools_IndexedMapOfShape& faces) {
    const Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(document->Main());
    const Handle(XCAFDoc_DimTolTool) tool = XCAFDoc_DocumentTool::DimTolTool(document->Main());
    std::ostringstream s;
    s.precision(17);
    TDF_LabelSequence labels, first, second;
    auto refer = [&](const TDF_Label& label) {
        first.Clear();
        second.Clear();
        tool->GetRefShapeLabel(label, first, second);
        s << ",\"faces\":" << facesOf(shapes, first, faces) << ",\"others\":" << facesOf(shapes, second, faces);
    };

    s << "{\"datums\":[";
    bool any = false;
    tool->GetDatumLabels(labels);
    for (int i = 1; i <= labels.Length(); ++i) {
        Handle(XCAFDoc_Datum) attribute;
        if (!labels(i).FindAttribute(XCAFDoc_Datum::GetID(), attribute)) continue;
        s << (any ? "," : "") << "{\"label\":" << text(attribute->GetObject()->GetName());
        refer(labels(i));
        s << ",\"target\":" << (attribute->GetObject()->IsDatumTarget() ? "true" : "false") << "}";
        any = true;
    }

    s << "],\"dimensions\":[";
    any = false;
    tool->GetDimensionLabels(labels);
    for (int i = 1; i <= labels.Length(); ++i) {
        Handle(XCAFDoc_Dimension) attribute;
        if (!labels(i).FindAttribute(XCAFDoc_Dimension::GetID(), attribute)) continue;
        const auto dimension = attribute->GetObject();
        const double value = dimension->IsDimWithRange() ? 0.5 * (dimension->GetUpperBound() + dimension->GetLowerBound()) : dimension->GetValue();
        s << (any ? "," : "") << "{\"kind\":\"" << dimensionKind(dimension->GetType()) << "\",\"name\":" << text(dimension->GetSemanticName()) << ",\"value\":" << value;
        if (dimension->IsDimWithRange()) {
            s << ",\"upper\":" << dimension->GetUpperBound() - value << ",\"lower\":" << dimension->GetLowerBound() - value;
        } else if (dimension->IsDimWithPlusMinusTolerance()) {
            // The kernel gives the lower deviation as how far it lies below.
            s << ",\"upper\":" << dimension->GetUpperTolValue() << ",\"lower\":" << (dimension->GetLowerTolValue() == 0 ? 0.0 : -dimension->GetLowerTolValue());
        }
        Standard_Boolean hole;
        XCAFDimTolObjects_DimensionFormVariance letter;
        XCAFDimTolObjects_DimensionGrade grade;
        if (dimension->IsDimWithClassOfTolerance() && dimension->GetClassOfTolerance(hole, letter, grade)) {
            static const char* const letters[] = {"", "a", "b", "c", "cd", "d", "e", "ef", "f", "fg", "g", "h", "js", "j", "k", "m", "n", "p", "r", "s", "t", "u", "v", "x", "y", "z", "za", "zb", "zc"};
            std::string fit = letters[letter];
            if (hole) std::transform(fit.begin(), fit.end(), fit.begin(), ::toupper);
            s << ",\"fit\":" << quoted(fit + (grade < 2 ? (grade == 0 ? "01" : "0") : std::to_string(static_cast<int>(grade) - 1)));
        }
        refer(labels(i));
        s << "}";
        any = true;
    }

    s << "],\"tolerances\":[";
    any = false;
    tool->GetGeomToleranceLabels(labels);
    for (int i = 1; i <= labels.Length(); ++i) {
        Handle(XCAFDoc_GeomTolerance) attribute;
        if (!labels(i).FindAttribute(XCAFDoc_GeomTolerance::GetID(), attribute)) continue;
        const auto tolerance = attribute->GetObject();
        s << (any ? "," : "") << "{\"kind\":\"" << toleranceKind(tolerance->GetType()) << "\",\"name\":" << text(tolerance->GetSemanticName()) << ",\"value\":" << tolerance->GetValue()
          << ",\"diametral\":" << (tolerance->GetTypeOfValue() == XCAFDimTolObjects_GeomToleranceTypeValue_None ? "false" : "true") << ",\"material\":" << materialOf(tolerance)
          << ",\"modifiers\":" << modifiersOf(tolerance) << ",\"datums\":[";
        TDF_LabelSequence datums;
        tool->GetDatumWithObjectOfTolerLabels(labels(i), datums);
        bool anyDatum = false;
        for (int d = 1; d <= datums.Length(); ++d) {
            Handle(XCAFDoc_Datum) datum;
            if (!datums(d).FindAttribute(XCAFDoc_Datum::GetID(), datum)) continue;
            s << (anyDatum ? "," : "") << datumReference(datum->GetObject());
            anyDatum = true;
        }
        s << "]";
        refer(labels(i));
        s << "}";
        any = true;
    }
    s << "]}";
    return s.str();
}

}  // namespace information
