// Assemblies from STEP files: the product tree flattened to solids with their copies, and what is broken mended where it can be.

#include <firnfield/step.hpp>

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "io/step/body.hpp"
#include "io/step/reader.hpp"

#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <Bnd_Box.hxx>
#include <BRepBndLib.hxx>
#include <GProp_GProps.hxx>
#include <IFSelect_ReturnStatus.hxx>
#include <Interface_InterfaceModel.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <ShapeFix_Shape.hxx>
#include <ShapeFix_Solid.hxx>
#include <Standard_Failure.hxx>
#include <StepRepr_RepresentationItem.hxx>
#include <TCollection_AsciiString.hxx>
#include <TCollection_HAsciiString.hxx>
#include <TDF_LabelSequence.hxx>
#include <TDF_Tool.hxx>
#include <TDataStd_Name.hxx>
#include <TDataStd_TreeNode.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Compound.hxx>
#include <TransferBRep.hxx>
#include <Transfer_TransientProcess.hxx>
#include <XCAFApp_Application.hxx>
#include <XCAFDoc.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_MaterialTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <XSControl_TransferReader.hxx>
#include <XSControl_WorkSession.hxx>

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <sstream>

namespace firnfield {
namespace {

[[noreturn]] void refuse(const std::string& name, const std::string& why) { throw FileError(fmt::format("{} cannot be used: {}", in_quotes(name), why)); }

/// Without what would break lines or hide.
std::string plain(std::string text) {
    std::erase_if(text, [](unsigned char c) { return c < 0x20 || c == 0x7f; });
    const std::size_t first = text.find_first_not_of(' '), last = text.find_last_not_of(' ');
    return first == std::string::npos ? std::string() : text.substr(first, last - first + 1);
}

std::string text_of(const TCollection_ExtendedString& text) {
    std::string out(static_cast<std::size_t>(text.LengthOfCString()) + 1, '\0');
    Standard_PCharacter at = out.data();
    out.resize(static_cast<std::size_t>(std::max(0, text.ToUTF8CString(at))));
    return plain(out.c_str());
}

std::string name_of_label(const TDF_Label& label) {
    Handle(TDataStd_Name) name;
    return label.FindAttribute(TDataStd_Name::GetID(), name) ? text_of(name->Get()) : std::string();
}

Placement placement_of(const TopLoc_Location& location) {
    const gp_Trsf move = location.Transformation();
    Placement out;
    for (int column = 0; column < 3; ++column) {
        for (int row = 0; row < 3; ++row) out.columns[static_cast<std::size_t>(column)][row] = move.Value(row + 1, column + 1);
    }
    for (int row = 0; row < 3; ++row) out.offset[row] = step::millimetre * move.Value(row + 1, 4);
    return out;
}

double size_of(const TopoDS_Shape& shape) {
    Bnd_Box box;
    BRepBndLib::Add(shape, box);
    return box.IsVoid() ? 0.0 : std::sqrt(box.SquareExtent());
}

/// What is between "FILE_SCHEMA((" and the next quote: "AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }" is AP214.
std::string schema_of(std::string_view bytes) {
    constexpr std::size_t head = 20'000;
    const std::string_view start = bytes.substr(0, head);
    const std::size_t at = start.find("FILE_SCHEMA"), quote = at == std::string_view::npos ? at : start.find('\'', at);
    if (quote == std::string_view::npos) return {};
    const std::string_view name = start.substr(quote + 1, start.find('\'', quote + 1) - quote - 1);
    if (name.find("AP242") != std::string_view::npos) return "AP242";
    if (name.find("AUTOMOTIVE_DESIGN") != std::string_view::npos) return "AP214";
    if (name.find("CONFIG_CONTROL_DESIGN") != std::string_view::npos) return "AP203";
    return plain(std::string(name));
}

/// Walks the product tree.
class Importer {
public:
    Importer(std::string_view bytes, std::string name) : bytes_(bytes), name_(std::move(name)) {}

    StepImport run() {
        step::be_quiet();
        out_.schema = schema_of(bytes_);
        XCAFApp_Application::GetApplication()->NewDocument("BinXCAF", document_);
        reader_.SetNameMode(true);
        reader_.SetColorMode(true);
        reader_.SetMatMode(true);
        std::istringstream stream{std::string(bytes_)};
        if (reader_.ChangeReader().ReadStream(name_.c_str(), stream) != IFSelect_RetDone) refuse(name_, "it is damaged, and cannot be read to its end");
        if (!reader_.Transfer(document_)) refuse(name_, "no shape comes out of it");
        shapes_ = XCAFDoc_DocumentTool::ShapeTool(document_->Main());
        TDF_LabelSequence roots;
        shapes_->GetFreeShapes(roots);
        for (int r = 1; r <= roots.Length(); ++r) visit(roots(r), TopLoc_Location(), {}, 0);
        for (const TDF_Label& leaf : leaves_) add_solids(leaf);
        XCAFApp_Application::GetApplication()->Close(document_);
        if (out_.solids.empty()) refuse(name_, "there is no solid in it");
        name_apart();
        return std::move(out_);
    }

private:
    void visit(const TDF_Label& label, const TopLoc_Location& location, const std::string& within, int depth) {
        constexpr int deepest = 200;
        if (depth > deepest) refuse(name_, "its assemblies are nested without an end");
        TDF_Label product = label;
        TopLoc_Location here = location;
        if (XCAFDoc_ShapeTool::IsReference(label)) {
            here = location * XCAFDoc_ShapeTool::GetLocation(label);
            XCAFDoc_ShapeTool::GetReferredShape(label, product);
        }
        if (XCAFDoc_ShapeTool::IsAssembly(product)) {
            TDF_LabelSequence components;
            XCAFDoc_ShapeTool::GetComponents(product, components);
            const std::string name = name_of_label(product);
            // The assembly that is the file itself says nothing.
            const std::string inner = depth == 0 ? within : within + (within.empty() ? "" : "/") + name;
            for (int c = 1; c <= components.Length(); ++c) visit(components(c), here, inner, depth + 1);
            return;
        }
        TCollection_AsciiString entry;
        TDF_Tool::Entry(product, entry);
        std::vector<StepCopy>& copies = copies_[entry.ToCString()];
        if (copies.empty()) leaves_.push_back(product);
        constexpr std::size_t most_copies = 20'000;
        if (copies.size() >= most_copies) refuse(name_, fmt::format("{} stands in more than {} places", in_quotes(name_of_label(product)), most_copies));
        copies.push_back({placement_of(here), within});
    }

    /// The solids of one product; loose shells and faces are sewn into one where they close.
    void add_solids(const TDF_Label& product) {
        const TopoDS_Shape shape = XCAFDoc_ShapeTool::GetShape(product);
        TCollection_AsciiString entry;
        TDF_Tool::Entry(product, entry);
        StepSolid common{.name = name_of_label(product), .copies = copies_[entry.ToCString()], .material = material_of(product), .colour = colour_of(product, shape)};
        if (common.name.empty()) common.name = "solid";
        std::vector<TopoDS_Shape> solids;
        for (TopExp_Explorer solid(shape, TopAbs_SOLID); solid.More(); solid.Next()) solids.push_back(solid.Current());
        BRep_Builder builder;
        TopoDS_Compound loose;
        builder.MakeCompound(loose);
        bool any_loose = false;
        for (TopExp_Explorer face(shape, TopAbs_FACE, TopAbs_SOLID); face.More(); face.Next()) {
            builder.Add(loose, face.Current());
            any_loose = true;
        }
        const std::size_t count = solids.size() + (any_loose ? 1 : 0);
        std::size_t number = 0;
        const auto add = [&](const TopoDS_Shape& solid, bool is_loose) {
            StepSolid next = common;
            if (count > 1) next.name = fmt::format("{} body {}", common.name, ++number);
            try {
                take(solid, is_loose, next);
            } catch (const Error& error) {
                next.why_not = error.what();
            } catch (const Standard_Failure& failure) {
                next.why_not = fmt::format("its geometry is broken ({})", plain(failure.GetMessageString()));
            }
            out_.solids.push_back(std::move(next));
        };
        for (const TopoDS_Shape& solid : solids) add(solid, false);
        if (any_loose) add(loose, true);
    }

    void take(TopoDS_Shape solid, bool loose, StepSolid& out) {
        // Placed in the product's own coordinates whatever the file wraps around it.
        if (loose) {
            solid = sewn(solid, out);
        } else if (!BRepCheck_Analyzer(solid).IsValid()) {
            ShapeFix_Shape fix(solid);
            fix.Perform();
            solid = fix.Shape();
            out.repairs.emplace_back("its faces or edges did not fit together and were mended");
        }
        const auto names = [&](const TopoDS_Shape& face) { return face_name(face); };
        try {
            out.geometry = step::make_body(outward(solid, out), names);
        } catch (const Error&) {
            if (loose) throw;
            solid = sewn(solid, out);
            out.geometry = step::make_body(outward(solid, out), names);
        }
        Bnd_Box box;
        BRepBndLib::AddOptimal(solid, box, false, false);
        const Vec3 low = step::millimetre * Vec3{box.CornerMin().X(), box.CornerMin().Y(), box.CornerMin().Z()};
        out.box = {.size = step::millimetre * Vec3{box.CornerMax().X(), box.CornerMax().Y(), box.CornerMax().Z()} - low, .at = low};
        if (!(out.geometry->volume() > 0.0)) {
            out.geometry.reset();
            throw Error("it encloses no volume");
        }
    }

    /// Turned so that the outside is outside.
    static TopoDS_Shape outward(const TopoDS_Shape& solid, StepSolid& out) {
        GProp_GProps properties;
        BRepGProp::VolumeProperties(solid, properties);
        if (!(properties.Mass() < 0.0)) return solid;
        out.repairs.emplace_back("it was inside out and was turned");
        return solid.Reversed();
    }

    /// Faces sewn together with growing tolerance until they close.
    TopoDS_Shape sewn(const TopoDS_Shape& faces, StepSolid& out) const {
        const double size = size_of(faces);
        for (const double share : {1e-7, 1e-5, 1e-4, 1e-3}) {
            const double tolerance = std::max(share * size, 1e-6);
            BRepBuilderAPI_Sewing sewing(tolerance);
            for (TopExp_Explorer face(faces, TopAbs_FACE); face.More(); face.Next()) sewing.Add(face.Current());
            sewing.Perform();
            if (sewing.SewedShape().IsNull()) continue;
            BRep_Builder builder;
            TopoDS_Solid solid;
            builder.MakeSolid(solid);
            int shells = 0;
            bool closed = true;
            for (TopExp_Explorer shell(sewing.SewedShape(), TopAbs_SHELL); shell.More(); shell.Next()) {
                builder.Add(solid, shell.Current());
                closed = closed && BRep_Tool::IsClosed(shell.Current());
                ++shells;
            }
            if (shells == 0 || !closed || sewing.NbFreeEdges() > 0) continue;
            ShapeFix_Solid fix(solid);
            fix.Perform();
            out.repairs.push_back(fmt::format("its faces were loose and were sewn together, over gaps of up to {:.2g} mm", tolerance));
            return fix.Solid();
        }
        throw Error(fmt::format("its surface is open, and does not close over gaps of up to {:.2g} mm", 1e-3 * size));
    }

    std::string material_of(const TDF_Label& product) const {
        Handle(TDataStd_TreeNode) node;
        if (!product.FindAttribute(XCAFDoc::MaterialRefGUID(), node) || !node->HasFather()) return {};
        Handle(TCollection_HAsciiString) name, description, density_name, density_type;
        double density = 0.0;
        if (!XCAFDoc_DocumentTool::MaterialTool(document_->Main())
                 ->GetMaterial(node->Father()->Label(), name, description, density, density_name, density_type) || name.IsNull()) return {};
        return plain(name->ToCString());
    }

    std::optional<std::array<double, 3>> colour_of(const TDF_Label& product, const TopoDS_Shape& shape) const {
        const Handle(XCAFDoc_ColorTool) colours = XCAFDoc_DocumentTool::ColorTool(document_->Main());
        Quantity_Color colour;
        for (const XCAFDoc_ColorType type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen}) {
            if (colours->GetColor(product, type, colour) || colours->GetColor(shape, type, colour))
                return std::array{colour.Red(), colour.Green(), colour.Blue()};
        }
        return std::nullopt;
    }

    /// The name of the face's entity; what stands for no name in files is none.
    std::string face_name(const TopoDS_Shape& face) const {
        const Handle(XSControl_WorkSession) session = reader_.Reader().WS();
        const Handle(Transfer_TransientProcess) process = session->TransferReader()->TransientProcess();
        const Handle(Standard_Transient) entity = session->TransferReader()->EntityFromShapeResult(face, 3);
        const Handle(StepRepr_RepresentationItem) item = Handle(StepRepr_RepresentationItem)::DownCast(entity);
        if (item.IsNull() || item->Name().IsNull()) return {};
        std::string name = plain(item->Name()->ToCString());
        return name == "NONE" || name == "none" ? std::string() : name;
    }

    /// Solids of one name get numbers in brackets.
    void name_apart() {
        std::set<std::string> taken;
        for (StepSolid& solid : out_.solids) {
            const std::string name = solid.name;
            for (int n = 2; !taken.insert(solid.name).second; ++n) solid.name = fmt::format("{} ({})", name, n);
        }
    }

    std::string_view bytes_;
    std::string name_;
    STEPCAFControl_Reader reader_;
    Handle(TDocStd_Document) document_;
    Handle(XCAFDoc_ShapeTool) shapes_;
    std::map<std::string, std::vector<StepCopy>> copies_;  // by product
    std::vector<TDF_Label> leaves_;
    StepImport out_;
};

}  // namespace

StepImport step::read_bytes(std::string_view bytes, const std::string& name) {
    try {
        return Importer(bytes, name).run();
    } catch (const Standard_Failure& failure) {
        refuse(name, fmt::format("its contents contradict themselves ({})", plain(failure.GetMessageString())));
    }
}

}  // namespace firnfield
