// Translates one STEP or IGES file into faces that keep their identity: exact surface kind and parameters,
// a triangulation whose vertices lie on the surface, the edges between faces, and the product information of AP242. It judges nothing.
//
//   bostel-cad IN OUT DEFLECTION_RATIO DEFLECTION_MIN_MM
//
// OUT: "BCAD0003", int32 length of a JSON header, the header, then per face float64 nodes, int32 triangles and, of a
// freeform face, float64 poles (x y z weight, v running fastest) and the nodes' parameters u v; then per edge float64
// points, all little-endian, in mm. Exit 0 done, 2 unreadable, 3 nothing solid inside.
#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBndLib.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <GCPnts_QuasiUniformDeflection.hxx>
#include <GProp_GProps.hxx>
#include <GeomConvert.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <IFSelect_ReturnStatus.hxx>
#include <IGESCAFControl_Reader.hxx>
#include <Interface_Static.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <Quantity_Color.hxx>
#include <Standard_Failure.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListIteratorOfListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <BRep_Builder.hxx>
#include <TopoDS_Compound.hxx>
#include <TopTools_DataMapOfShapeInteger.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <cstdio>
#include <cstring>
#include <fstream>
#include <iostream>
#include <sstream>
#include <string>
#include <vector>

#include "product-information.hpp"

namespace {

struct FaceRecord {
    std::string json;
    std::vector<double> nodes;
    std::vector<int32_t> triangles;
    std::vector<double> poles;
    std::vector<double> parameters;
};

std::string triple(const char* key, double x, double y, double z) {
    std::ostringstream s;
    s.precision(17);
    s << ",\"" << key << "\":[" << x << "," << y << "," << z << "]";
    return s.str();
}

std::string number(const char* key, double value) {
    std::ostringstream s;
    s.precision(17);
    s << ",\"" << key << "\":" << value;
    return s.str();
}

std::string placement(const gp_Ax3& p) {
    const gp_Pnt o = p.Location();
    const gp_Dir z = p.Direction(), x = p.XDirection();
    return triple("origin", o.X(), o.Y(), o.Z()) + triple("axis", z.X(), z.Y(), z.Z()) + triple("xDirection", x.X(), x.Y(), x.Z());
}

std::string describe(const TopoDS_Face& face) {
    const BRepAdaptor_Surface surface(face);
    std::string json = "{\"kind\":\"";
    switch (surface.GetType()) {
        case GeomAbs_Plane: json += "plane\"" + placement(surface.Plane().Position()); break;
        case GeomAbs_Cylinder:
            json += "cylinder\"" + placement(surface.Cylinder().Position()) + number("radius", surface.Cylinder().Radius());
            break;
        case GeomAbs_Cone:
            json += "cone\"" + placement(surface.Cone().Position()) + number("radius", surface.Cone().RefRadius()) +
                    number("halfAngle", surface.Cone().SemiAngle());
            break;
        case GeomAbs_Sphere:
            json += "sphere\"" + placement(surface.Sphere().Position()) + number("radius", surface.Sphere().Radius());
            break;
        case GeomAbs_Torus:
            json += "torus\"" + placement(surface.Torus().Position()) + number("radius", surface.Torus().MajorRadius()) +
                    number("minorRadius", surface.Torus().MinorRadius());
            break;
        default: json += "freeform\""; break;
    }
    GProp_GProps properties;
    BRepGProp::SurfaceProperties(face, properties);
    return json + number("area", std::abs(properties.Mass()));
}

std::vector<double> polyline(const TopoDS_Edge& edge, double deflection) {
    std::vector<double> points;
    if (BRep_Tool::Degenerated(edge)) return points;
    const BRepAdaptor_Curve curve(edge);
    GCPnts_QuasiUniformDeflection sampler(curve, deflection);
    if (!sampler.IsDone()) return points;
    for (int i = 1; i <= sampler.NbPoints(); ++i) {
        const gp_Pnt p = sampler.Value(i);
        points.insert(points.end(), {p.X(), p.Y(), p.Z()});
    }
    return points;
}

// A named and coloured body of the file: one part of an assembly, where it stands.
struct Body {
    std::string name;
    std::string color;
};

// What the file says beyond geometry, by shape: which body it belongs to, and the colour of single faces.
struct Content {
    TopoDS_Shape shape;
    std::vector<Body> bodies;
    TopTools_DataMapOfShapeInteger bodyOf;
    std::vector<std::string> faceColors;
    TopTools_DataMapOfShapeInteger colorOf;
    Handle(TDocStd_Document) document;
};

using information::quoted;

std::string nameOf(const TDF_Label& label) {
    Handle(TDataStd_Name) name;
    if (!label.FindAttribute(TDataStd_Name::GetID(), name)) return "";
    const TCollection_ExtendedString& text = name->Get();
    std::string utf8(text.LengthOfCString() + 1, '\0');
    Standard_PCharacter target = utf8.data();
    utf8.resize(text.ToUTF8CString(target));
    return utf8;
}

std::string colorOf(const Handle(XCAFDoc_ColorTool)& colors, const TDF_Label& label) {
    Quantity_Color color;
    for (const XCAFDoc_ColorType type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen}) {
        if (colors->GetColor(label, type, color)) {
            const TCollection_AsciiString hex = Quantity_Color::ColorToHex(color);
            return hex.ToCString();
        }
    }
    return "";
}

// Walks an assembly; names and colours of an instance go before those of what it is an instance of.
void walk(const Handle(XCAFDoc_ShapeTool)& shapes, const Handle(XCAFDoc_ColorTool)& colors, const TDF_Label& label, const TopLoc_Location& above, Body inherited, Content& content, int depth) {
    if (depth > 40) return;
    TDF_Label what = label;
    if (shapes->IsReference(label)) shapes->GetReferredShape(label, what);
    const std::string own = nameOf(what), instance = nameOf(label);
    if (!own.empty()) inherited.name = own;
    else if (!instance.empty()) inherited.name = instance;
    std::string color = colorOf(colors, label);
    if (color.empty()) color = colorOf(colors, what);
    if (!color.empty()) inherited.color = color;
    const TopLoc_Location here = label == what ? above : above * shapes->GetLocation(label);
    if (shapes->IsAssembly(what)) {
        TDF_LabelSequence parts;
        shapes->GetComponents(what, parts);
        for (int i = 1; i <= parts.Length(); ++i) walk(shapes, colors, parts(i), here, inherited, content, depth + 1);
        return;
    }
    const TopoDS_Shape shape = shapes->GetShape(what).Moved(here);
    const int body = static_cast<int>(content.bodies.size());
    content.bodies.push_back(inherited);
    for (TopExp_Explorer f(shape, TopAbs_FACE); f.More(); f.Next()) content.bodyOf.Bind(f.Current(), body);
    TDF_LabelSequence inner;
    shapes->GetSubShapes(what, inner);
    for (int i = 1; i <= inner.Length(); ++i) {
        const std::string special = colorOf(colors, inner(i));
        if (special.empty()) continue;
        for (TopExp_Explorer f(shapes->GetShape(inner(i)).Moved(here), TopAbs_FACE); f.More(); f.Next()) {
            content.colorOf.Bind(f.Current(), static_cast<int>(content.faceColors.size()));
            content.faceColors.push_back(special);
        }
    }
}

Content read(const std::string& path, int& status) {
    std::string lower = path;
    std::transform(lower.begin(), lower.end(), lower.begin(), ::tolower);
    const bool iges = lower.size() > 4 && (lower.rfind(".igs") == lower.size() - 4 || lower.rfind(".iges") == lower.size() - 5);
    Interface_Static::SetCVal("xstep.cascade.unit", "MM");
    Content content;
    Handle(TDocStd_Document) document = content.document = new TDocStd_Document("MDTV-XCAF");
    auto load = [&](auto& reader) {
        reader.SetNameMode(Standard_True);
        reader.SetColorMode(Standard_True);
        if (reader.ReadFile(path.c_str()) != IFSelect_RetDone || !reader.Transfer(document)) {
            status = 2;
            return;
        }
        const Handle(XCAFDoc_ShapeTool) shapes = XCAFDoc_DocumentTool::ShapeTool(document->Main());
        const Handle(XCAFDoc_ColorTool) colors = XCAFDoc_DocumentTool::ColorTool(document->Main());
        TDF_LabelSequence roots;
        shapes->GetFreeShapes(roots);
        BRep_Builder builder;
        TopoDS_Compound whole;
        builder.MakeCompound(whole);
        for (int i = 1; i <= roots.Length(); ++i) {
            builder.Add(whole, shapes->GetShape(roots(i)));
            walk(shapes, colors, roots(i), TopLoc_Location(), {}, content, 0);
        }
        if (roots.Length() > 0) content.shape = roots.Length() == 1 ? shapes->GetShape(roots(1)) : static_cast<TopoDS_Shape>(whole);
    };
    if (iges) {
        IGESCAFControl_Reader reader;
        load(reader);
    } else {
        STEPCAFControl_Reader reader;
        reader.SetGDTMode(Standard_True);
        load(reader);
    }
    return content;
}

// The exact surface of a freeform face over its own range; null where it cannot be written as a B-spline.
Handle(Geom_BSplineSurface) spline(const TopoDS_Face& face) {
    const Handle(Geom_Surface) surface = BRep_Tool::Surface(face);
    double u0, u1, v0, v1;
    BRepTools::UVBounds(face, u0, u1, v0, v1);
    for (const bool trimmed : {true, false}) {
        try {
            Handle(Geom_Surface) part = surface;
            if (trimmed) part = new Geom_RectangularTrimmedSurface(surface, u0, u1, v0, v1);
            const Handle(Geom_BSplineSurface) found = GeomConvert::SurfaceToBSplineSurface(part);
            found->SetUNotPeriodic();
            found->SetVNotPeriodic();
            return found;
        } catch (const Standard_Failure&) {
        }
    }
    return {};
}

std::string knots(const char* key, const TColStd_Array1OfReal& values) {
    std::ostringstream s;
    s.precision(17);
    s << "\"" << key << "\":[";
    for (int i = values.Lower(); i <= values.Upper(); ++i) s << (i > values.Lower() ? "," : "") << values(i);
    s << "]";
    return s.str();
}

void addSpline(const TopoDS_Face& face, const Handle(Poly_Triangulation)& mesh, FaceRecord& out) {
    const Handle(Geom_BSplineSurface) s = spline(face);
    if (s.IsNull() || !mesh->HasUVNodes()) return;
    for (int i = 1; i <= s->NbUPoles(); ++i)
        for (int j = 1; j <= s->NbVPoles(); ++j) {
            const gp_Pnt p = s->Pole(i, j);
            out.poles.insert(out.poles.end(), {p.X(), p.Y(), p.Z(), s->Weight(i, j)});
        }
    for (int i = 1; i <= mesh->NbNodes(); ++i) {
        const gp_Pnt2d uv = mesh->UVNode(i);
        out.parameters.insert(out.parameters.end(), {uv.X(), uv.Y()});
    }
    out.json += ",\"surface\":{\"degreeU\":" + std::to_string(s->UDegree()) + ",\"degreeV\":" + std::to_string(s->VDegree()) + "," +
                knots("knotsU", s->UKnotSequence()) + "," + knots("knotsV", s->VKnotSequence()) + "}";
}

FaceRecord record(const TopoDS_Face& face, const Content& content) {
    FaceRecord out;
    out.json = describe(face);
    if (content.bodyOf.IsBound(face)) out.json += ",\"body\":" + std::to_string(content.bodyOf(face));
    if (content.colorOf.IsBound(face)) out.json += ",\"color\":" + quoted(content.faceColors[content.colorOf(face)]);
    TopLoc_Location location;
    const Handle(Poly_Triangulation) mesh = BRep_Tool::Triangulation(face, location);
    if (!mesh.IsNull()) {
        const gp_Trsf transform = location.Transformation();
        out.nodes.reserve(3 * mesh->NbNodes());
        for (int i = 1; i <= mesh->NbNodes(); ++i) {
            const gp_Pnt p = mesh->Node(i).Transformed(transform);
            out.nodes.insert(out.nodes.end(), {p.X(), p.Y(), p.Z()});
        }
        const bool flip = (face.Orientation() == TopAbs_REVERSED) != (transform.VectorialPart().Determinant() < 0);
        for (int i = 1; i <= mesh->NbTriangles(); ++i) {
            int a, b, c;
            mesh->Triangle(i).Get(a, b, c);
            if (flip) std::swap(b, c);
            out.triangles.insert(out.triangles.end(), {a - 1, b - 1, c - 1});
        }
        if (out.json.rfind("{\"kind\":\"freeform\"", 0) == 0) addSpline(face, mesh, out);
    }
    out.json += ",\"nodes\":" + std::to_string(out.nodes.size() / 3) + ",\"triangles\":" + std::to_string(out.triangles.size() / 3) + "}";
    return out;
}

int count(const TopoDS_Shape& shape, TopAbs_ShapeEnum kind) {
    TopTools_IndexedMapOfShape map;
    TopExp::MapShapes(shape, kind, map);
    return map.Extent();
}

int run(int argc, char** argv) {
    if (argc != 5) {
        std::cerr << "usage: bostel-cad IN OUT DEFLECTION_RATIO DEFLECTION_MIN_MM\n";
        return 2;
    }
    int status = 0;
    const Content content = read(argv[1], status);
    const TopoDS_Shape& shape = content.shape;
    if (status != 0 || shape.IsNull()) return status != 0 ? status : 3;
    TopTools_IndexedMapOfShape faces;
    TopExp::MapShapes(shape, TopAbs_FACE, faces);
    if (faces.Extent() == 0) return 3;

    Bnd_Box box;
    BRepBndLib::Add(shape, box);
    const double diagonal = std::sqrt(box.SquareExtent());
    // Damaged numbers: nothing of such a size is a part, and a triangulation of it would have no end.
    if (!std::isfinite(diagonal) || diagonal > 1e8) return 2;
    const double deflection = std::max(std::stod(argv[4]), diagonal * std::stod(argv[3]));
    BRepMesh_IncrementalMesh mesher(shape, deflection, Standard_False, 0.35, Standard_True);

    std::vector<FaceRecord> records;
    for (int i = 1; i <= faces.Extent(); ++i) records.push_back(record(TopoDS::Face(faces(i)), content));

    TopTools_IndexedDataMapOfShapeListOfShape edges;
    TopExp::MapShapesAndAncestors(shape, TopAbs_EDGE, TopAbs_FACE, edges);
    std::vector<std::vector<double>> lines;
    std::ostringstream header;
    header.precision(17);
    header << "{\"solids\":" << count(shape, TopAbs_SOLID) << ",\"deflection\":" << deflection << ",\"bodies\":[";
    for (size_t i = 0; i < content.bodies.size(); ++i)
        header << (i ? "," : "") << "{\"name\":" << quoted(content.bodies[i].name) << ",\"color\":" << quoted(content.bodies[i].color) << "}";
    header << "],\"faces\":[";
    for (size_t i = 0; i < records.size(); ++i) header << (i ? "," : "") << records[i].json;
    header << "],\"edges\":[";
    for (int i = 1; i <= edges.Extent(); ++i) {
        lines.push_back(polyline(TopoDS::Edge(edges.FindKey(i)), std::max(deflection, diagonal * 2e-4)));
        header << (i > 1 ? "," : "") << "{\"points\":" << lines.back().size() / 3 << ",\"faces\":[";
        bool first = true;
        for (TopTools_ListIteratorOfListOfShape it(edges(i)); it.More(); it.Next(), first = false)
            header << (first ? "" : ",") << faces.FindIndex(it.Value()) - 1;
        header << "]}";
    }
    header << "],\"information\":" << information::of(content.document, faces) << "}";

    const std::string json = header.str();
    const int32_t length = static_cast<int32_t>(json.size());
    std::ofstream out(argv[2], std::ios::binary);
    out.write("BCAD0003", 8);
    out.write(reinterpret_cast<const char*>(&length), 4);
    out.write(json.data(), length);
    for (const auto& r : records) {
        out.write(reinterpret_cast<const char*>(r.nodes.data()), static_cast<std::streamsize>(r.nodes.size() * 8));
        out.write(reinterpret_cast<const char*>(r.triangles.data()), static_cast<std::streamsize>(r.triangles.size() * 4));
        out.write(reinterpret_cast<const char*>(r.poles.data()), static_cast<std::streamsize>(r.poles.size() * 8));
        out.write(reinterpret_cast<const char*>(r.parameters.data()), static_cast<std::streamsize>(r.parameters.size() * 8));
    }
    for (const auto& l : lines) out.write(reinterpret_cast<const char*>(l.data()), static_cast<std::streamsize>(l.size() * 8));
    out.flush();
    return out.good() ? 0 : 4;
}

}  // namespace

int main(int argc, char** argv) {
    Message::DefaultMessenger()->RemovePrinters(STANDARD_TYPE(Message_Printer));
    try {
        return run(argc, argv);
    } catch (const Standard_Failure& failure) {
        std::cerr << failure.GetMessageString() << "\n";
        return 2;
    } catch (const std::exception& failure) {
        std::cerr << failure.what() << "\n";
        return 2;
    }
}
