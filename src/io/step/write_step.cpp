// Parts of a model as a STEP assembly, solids with their faces as they are.

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "geometry/placement.hpp"
#include "io/step/body.hpp"
#include "io/step/reader.hpp"

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakePrism.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepPrimAPI_MakeSphere.hxx>
#include <BRep_Builder.hxx>
#include <GC_MakeArcOfCircle.hxx>
#include <Interface_Static.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <Standard_Failure.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Shell.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_MaterialTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <map>
#include <numbers>

namespace firnfield {
namespace {

constexpr double mm(double metres) { return metres / step::millimetre; }
gp_Pnt point(Vec3 p) { return {mm(p.x), mm(p.y), mm(p.z)}; }
gp_Dir axis(int a) { return {a == 0 ? 1.0 : 0.0, a == 1 ? 1.0 : 0.0, a == 2 ? 1.0 : 0.0}; }
/// The frame of a solid that stands on `at` along an axis: its own x is the next axis in the order x, y, z, x.
gp_Ax2 frame(Vec3 at, int along) { return {point(at), axis(along), axis((along + 1) % 3)}; }
constexpr double radians(double degrees) { return degrees * std::numbers::pi / 180.0; }

/// Makes the solid of a shape, where it is described.
struct Maker {
    TopoDS_Shape operator()(const Box& b) const { return BRepPrimAPI_MakeBox(point(b.at), mm(b.size.x), mm(b.size.y), mm(b.size.z)).Shape(); }
    TopoDS_Shape operator()(const Cylinder& c) const { return BRepPrimAPI_MakeCylinder(frame(c.at, c.along), mm(c.radius), mm(c.length)).Shape(); }
    TopoDS_Shape operator()(const Tube& t) const {
        const auto rod = [&](double radius) {
            return t.angle == 360.0 ? BRepPrimAPI_MakeCylinder(frame(t.at, t.along), mm(radius), mm(t.length)).Shape()
                                    : BRepPrimAPI_MakeCylinder(frame(t.at, t.along), mm(radius), mm(t.length), radians(t.angle)).Shape();
        };
        return t.inner_radius > 0.0 ? BRepAlgoAPI_Cut(rod(t.outer_radius), rod(t.inner_radius)).Shape() : rod(t.outer_radius);
    }
    TopoDS_Shape operator()(const Sphere& s) const { return BRepPrimAPI_MakeSphere(point(s.at), mm(s.radius)).Shape(); }
    TopoDS_Shape operator()(const Cone& c) const {
        if (c.lower_radius == c.upper_radius) return (*this)(Cylinder{.radius = c.lower_radius, .length = c.length, .at = c.at, .along = c.along});
        return BRepPrimAPI_MakeCone(frame(c.at, c.along), mm(c.lower_radius), mm(c.upper_radius), mm(c.length)).Shape();
    }
    TopoDS_Shape operator()(const Prism& p) const {
        const auto place = [&](double x, double y) {
            Vec3 at = p.at;
            at[(p.along + 1) % 3] += x;
            at[(p.along + 2) % 3] += y;
            return point(at);
        };
        const gp_Vec up = gp_Vec(axis(p.along)) * mm(p.length);
        const auto extruded = [&](const Outline& outline) {
            return BRepPrimAPI_MakePrism(BRepBuilderAPI_MakeFace(wire(outline, place), true).Face(), up).Shape();
        };
        TopoDS_Shape solid = extruded(p.outline);
        for (const Outline& hole : p.holes) solid = BRepAlgoAPI_Cut(solid, extruded(hole)).Shape();
        return solid;
    }
    TopoDS_Shape operator()(const Revolution& r) const {
        const auto place = [&](double radius, double height) {
            Vec3 at = r.at;
            at[(r.along + 1) % 3] += radius;
            at[r.along] += height;
            return point(at);
        };
        const TopoDS_Face face = BRepBuilderAPI_MakeFace(wire(r.outline, place), true).Face();
        const gp_Ax1 about(point(r.at), axis(r.along));
        return r.angle == 360.0 ? BRepPrimAPI_MakeRevol(face, about).Shape() : BRepPrimAPI_MakeRevol(face, about, radians(r.angle)).Shape();
    }
    /// Of triangles: a face each.
    TopoDS_Shape operator()(const Solid& s) const {
        BRep_Builder builder;
        TopoDS_Shell shell;
        builder.MakeShell(shell);
        std::vector<TopoDS_Vertex> corner;
        for (const Vec3& p : s.surface->corners) corner.push_back(BRepBuilderAPI_MakeVertex(point(p + s.at)).Vertex());
        std::map<std::pair<std::uint32_t, std::uint32_t>, TopoDS_Edge> edges;
        for (const auto& t : s.surface->triangles) {
            BRepBuilderAPI_MakeWire around;
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t a = t[k], b = t[(k + 1) % 3];
                TopoDS_Edge& edge = edges[{std::min(a, b), std::max(a, b)}];
                if (edge.IsNull()) edge = BRepBuilderAPI_MakeEdge(corner[std::min(a, b)], corner[std::max(a, b)]).Edge();
                around.Add(a < b ? edge : TopoDS::Edge(edge.Reversed()));
            }
            builder.Add(shell, BRepBuilderAPI_MakeFace(around.Wire(), true).Face());
        }
        shell.Closed(true);
        return BRepBuilderAPI_MakeSolid(shell).Solid();
    }
    TopoDS_Shape operator()(const CadSolid& c) const {
        const TopoDS_Shape shape = step::shape_of(*c.geometry);
        if (shape.IsNull()) throw Error("its faces come from elsewhere and cannot be written");
        const Placement own = c.copies.size() == 1 ? c.copies.front().place : Placement{};
        return BRepBuilderAPI_Transform(shape, transformation(combine(moved(c.at), own)), true).Shape();
    }

    /// A rotation, a mirror image or a scale, moved.
    static gp_Trsf transformation(const Placement& placement) {
        gp_Trsf out;
        const auto& [x, y, z] = placement.columns;
        const Vec3 o = placement.offset;
        out.SetValues(x.x, y.x, z.x, mm(o.x), x.y, y.y, z.y, mm(o.y), x.z, y.z, z.z, mm(o.z));
        return out;
    }

private:
    static TopoDS_Wire wire(const Outline& outline, const auto& place) {
        BRepBuilderAPI_MakeWire out;
        for (std::size_t i = 0; i < outline.size(); ++i) {
            const OutlinePoint& to = outline[i];
            const OutlinePoint& from = outline[(i + outline.size() - 1) % outline.size()];
            const gp_Pnt a = place(from.x, from.y), b = place(to.x, to.y);
            if (to.through) {
                out.Add(BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(a, place((*to.through)[0], (*to.through)[1]), b).Value()).Edge());
            } else {
                out.Add(BRepBuilderAPI_MakeEdge(a, b).Edge());
            }
        }
        return out.Wire();
    }
};

/// The solid of a product, with what is added and cut out.
TopoDS_Shape solid_of(const step::Product& product) {
    TopoDS_Shape out = std::visit(Maker{}, product.shape);
    for (const Shape& more : product.also) out = BRepAlgoAPI_Fuse(out, std::visit(Maker{}, more)).Shape();
    for (const Shape& hole : product.holes) out = BRepAlgoAPI_Cut(out, std::visit(Maker{}, hole)).Shape();
    if (!TopExp_Explorer(out, TopAbs_SOLID).More()) throw Error("nothing of it is left after cutting");
    if (!(product.before == Placement{})) out = BRepBuilderAPI_Transform(out, Maker::transformation(product.before), true).Shape();
    return out;
}

/// The assembly under construction.
class Exporter {
public:
    explicit Exporter(const std::string& title) {
        XCAFApp_Application::GetApplication()->NewDocument("BinXCAF", document_);
        shapes_ = XCAFDoc_DocumentTool::ShapeTool(document_->Main());
        materials_ = XCAFDoc_DocumentTool::MaterialTool(document_->Main());
        assembly_ = shapes_->NewShape();
        set_name(assembly_, title.empty() ? "assembly" : title);
    }
    ~Exporter() { XCAFApp_Application::GetApplication()->Close(document_); }
    Exporter(const Exporter&) = delete;
    Exporter& operator=(const Exporter&) = delete;

    void add(const step::Product& product) {
        const TDF_Label label = shapes_->AddShape(solid_of(product), false);
        set_name(label, product.name);
        for (const step::Product::Copy& copy : product.copies)
            set_name(shapes_->AddComponent(assembly_, label, TopLoc_Location(Maker::transformation(copy.place))), copy.name);
        if (Quantity_Color colour; !product.colour.empty() && Quantity_Color::ColorFromHex(product.colour.c_str(), colour))
            XCAFDoc_DocumentTool::ColorTool(document_->Main())->SetColor(label, colour, XCAFDoc_ColorSurf);
        if (product.material.empty()) return;
        const auto text = [](const std::string& t) { return new TCollection_HAsciiString(t.c_str()); };
        constexpr double grams_per_cubic_centimetre = 1e-3;
        materials_->SetMaterial(label, text(product.material), text(""), grams_per_cubic_centimetre * product.density, text("density measure"),
                                text("POSITIVE_RATIO_MEASURE"));
    }

    void write(const std::filesystem::path& file) {
        shapes_->UpdateAssemblies();
        STEPCAFControl_Writer writer;
        Interface_Static::SetCVal("write.step.schema", "AP214IS");
        Interface_Static::SetCVal("write.step.unit", "MM");
        writer.SetNameMode(true);
        writer.SetMaterialMode(true);
        writer.SetColorMode(true);
        // To a file beside it, which takes its place when it is whole.
        const std::filesystem::path part = file.string() + ".part";
        const bool whole = writer.Transfer(document_, STEPControl_AsIs) && writer.Write(part.c_str()) == IFSelect_RetDone;
        std::error_code status;
        if (whole) std::filesystem::rename(part, file, status);
        if (whole && !status) return;
        std::filesystem::remove(part, status);
        throw WriteError(fmt::format("cannot write {}: is the folder there, writable and not full?", in_quotes(file.string())));
    }

private:
    static void set_name(const TDF_Label& label, const std::string& name) { TDataStd_Name::Set(label, TCollection_ExtendedString(name.c_str(), true)); }

    Handle(TDocStd_Document) document_;
    Handle(XCAFDoc_ShapeTool) shapes_;
    Handle(XCAFDoc_MaterialTool) materials_;
    TDF_Label assembly_;
};

}  // namespace

void step::write_products(const std::filesystem::path& file, const std::string& title, std::span<const Product> products) {
    be_quiet();
    Exporter exporter(title);
    for (const Product& product : products) {
        try {
            exporter.add(product);
        } catch (const Standard_Failure& failure) {
            throw Error(fmt::format("part {} cannot be written as STEP: {}", in_quotes(product.name), failure.GetMessageString()));
        } catch (const Error& error) {
            throw Error(fmt::format("part {} cannot be written as STEP: {}", in_quotes(product.name), error.what()));
        }
    }
    exporter.write(file);
}

}  // namespace firnfield
