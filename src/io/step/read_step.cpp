// Assemblies from STEP files: the product tree flattened to solids with their copies, and what is broken mended where it can be.

#include <firnfield/step.hpp>

#include <firnfield/error.hpp>

#include "base/words.hpp"
#include "io/step/body.hpp"
#include "io/step/process.hpp"
#include "io/step/reader.hpp"

#include <BRepBndLib.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepGProp.hxx>
#include <BRepTools.hxx>
#include <BRep_Builder.hxx>
#include <BRep_Tool.hxx>
#include <BinTools.hxx>
#include <Bnd_Box.hxx>
#include <GProp_GProps.hxx>
#include <IFSelect_ReturnStatus.hxx>
#include <Interface_InterfaceModel.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Reader.hxx>
#include <ShapeFix_Shape.hxx>
#include <ShapeFix_Solid.hxx>
#include <Standard_Failure.hxx>
#include <StepShape_Face.hxx>
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
#include <TopoDS_Iterator.hxx>
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
#include <nlohmann/json.hpp>

#include <algorithm>
#include <array>
#include <atomic>
#include <map>
#include <set>
#include <sstream>
#include <system_error>
#include <thread>
#include <unordered_map>

namespace firnfield {
namespace {

using nlohmann::json;

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

/// A solid as the kernel has it.
struct Draft {
    StepSolid told{};
    TopoDS_Shape shape{};                   // null: it cannot be used
    std::vector<std::string> face_names{};  // in the order of its faces
    std::size_t product = 0;
    bool loose = false;  // faces that no solid holds together
};

/// Walks the product tree.
class Importer {
public:
    Importer(std::string_view bytes, std::string name) : bytes_(bytes), name_(std::move(name)) {}

    std::vector<Draft> run() {
        XCAFApp_Application::GetApplication()->NewDocument("BinXCAF", document_);
        reader_.SetNameMode(true);
        reader_.SetMatMode(true);
        reader_.SetColorMode(true);
        std::istringstream stream{std::string(bytes_)};
        if (reader_.ChangeReader().ReadStream(name_.c_str(), stream) != IFSelect_RetDone) refuse(name_, "it is damaged, and cannot be read to its end");
        if (!reader_.Transfer(document_)) refuse(name_, "no shape comes out of it");
        find_face_names();
        shapes_ = XCAFDoc_DocumentTool::ShapeTool(document_->Main());
        TDF_LabelSequence roots;
        shapes_->GetFreeShapes(roots);
        for (int r = 1; r <= roots.Length(); ++r) visit(roots(r), TopLoc_Location(), {}, 0);
        for (const TDF_Label& leaf : leaves_) add_solids(leaf);
        judge_all();
        XCAFApp_Application::GetApplication()->Close(document_);
        if (out_.empty()) refuse(name_, "there is no solid in it");
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
        if (std::string& colour = colours_[entry.ToCString()]; colour.empty()) colour = colour_of(label);
        if (copies.size() >= most_copies) refuse(name_, fmt::format("{} stands in more than {} places", in_quotes(name_of_label(product)), most_copies));
        copies.push_back({placement_of(here), within});
    }

    /// The solids of one product; loose shells and faces are sewn into one where they close.
    void add_solids(const TDF_Label& product) {
        const TopoDS_Shape shape = XCAFDoc_ShapeTool::GetShape(product);
        TCollection_AsciiString entry;
        TDF_Tool::Entry(product, entry);
        StepSolid common{.name = name_of_label(product), .copies = copies_[entry.ToCString()], .material = material_of(product), .colour = colour_of(product)};
        if (common.colour.empty()) common.colour = colours_[entry.ToCString()];
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
            Draft next{.told = common, .product = products_, .loose = is_loose};
            if (count > 1) next.told.name = fmt::format("{} body {}", common.name, ++number);
            if (const std::string own = colour_of(solid); !own.empty()) next.told.colour = own;
            attempt(next, [&] { prepare(solid, next); });
            out_.push_back(std::move(next));
        };
        for (const TopoDS_Shape& solid : solids) add(solid, false);
        if (any_loose) add(loose, true);
        ++products_;
        if (count > 0) return;
        Draft nothing{.told = common, .product = 0};
        nothing.told.why_not = "no shape comes out of it: its description is damaged, or holds none";
        out_.push_back(std::move(nothing));
    }

    /// Does something with a solid; what goes wrong becomes the reason why it cannot be used.
    template <typename Work>
    static void attempt(Draft& draft, const Work& work) {
        try {
            work();
        } catch (const Error& error) {
            draft.told.why_not = error.what();
        } catch (const Standard_Failure& failure) {
            draft.told.why_not = fmt::format("its geometry is broken ({})", plain(failure.GetMessageString()));
        }
        if (!draft.told.why_not.empty()) draft.shape.Nullify();
    }

    /// Sews loose faces, and mends what the kernel finds wrong.
    void prepare(TopoDS_Shape solid, Draft& out) {
        if (out.loose) {
            solid = sewn(solid, out.told);
        } else if (!BRepCheck_Analyzer(solid).IsValid()) {
            ShapeFix_Shape fix(solid);
            fix.Perform();
            solid = fix.Shape();
            out.told.repairs.emplace_back("its faces or edges did not fit together and were mended");
        }
        out.shape = outward(solid, out.told);
    }

    /// Whether the facets of every solid close, on all cores: this takes most of the time. What does not close is sewn and tried again.
    void judge_all() {
        std::vector<std::vector<std::size_t>> work(products_);  // drafts by product: its solids may have faces in common
        std::vector<std::vector<TopoDS_Shape>> shapes(products_);
        for (std::size_t d = 0; d < out_.size(); ++d) {
            if (out_[d].shape.IsNull()) continue;
            work[out_[d].product].push_back(d);
            shapes[out_[d].product].push_back(out_[d].shape);
        }
        std::vector<std::string> failed(out_.size());
        const auto judge = [&](std::size_t product) {
            for (const std::size_t d : work[product]) {
                try {
                    require_usable(out_[d]);
                } catch (const Error& error) {
                    failed[d] = error.what();
                } catch (const Standard_Failure& failure) {
                    failed[d] = fmt::format("its geometry is broken ({})", plain(failure.GetMessageString()));
                }
            }
        };
        std::atomic<std::size_t> next{0};
        const auto all = [&] {
            for (std::size_t product = next++; product < work.size(); product = next++) judge(product);
        };
        constexpr unsigned most_threads = 8;
        std::vector<std::thread> threads;
        // Not by OpenMP, which cannot go on in a process that was split off from one with threads.
        const unsigned count = step::share_nothing(shapes) ? std::min(std::thread::hardware_concurrency(), most_threads) : 1;
        try {
            for (unsigned t = 1; t < count; ++t) threads.emplace_back(all);
        } catch (const std::system_error&) {  // there is no room for more threads: those that are there do it
        }
        all();
        for (std::thread& thread : threads) thread.join();
        for (std::size_t d = 0; d < out_.size(); ++d) {
            if (failed[d].empty()) continue;
            Draft& draft = out_[d];
            attempt(draft, [&] {
                if (draft.loose) throw Error(failed[d]);
                draft.shape = outward(sewn(draft.shape, draft.told), draft.told);
                require_usable(draft);
            });
        }
    }

    /// Takes a solid whose facets close around a volume, and tells its extent.
    void require_usable(Draft& draft) const {
        draft.face_names.clear();
        for (const TopoDS_Shape& face : step::faces_of(draft.shape)) draft.face_names.push_back(face_name(face));
        const auto body = step::make_body(draft.shape, draft.told.name, draft.face_names);
        if (!(body->volume() > 0.0)) throw Error("it encloses no volume");
        // What closes in coarse facets may not in fine ones where faces have no formula.
        const bool free = std::any_of(body->faces().begin(), body->faces().end(), [](const ExactFace& face) { return face.kind == FaceKind::curved; });
        constexpr double fine = 1e-3, coarsest = 1e30;
        draft.told.box = extent_of(draft.shape, *body, body->facets(free ? fine * step::millimetre * size_of(draft.shape) : coarsest));
    }

    /// Exact for faces that have formulas. Of others the kernel would search for the extremes, which takes longer than everything else: their facets say it.
    static Box extent_of(const TopoDS_Shape& solid, const ExactSolid& body, const ClosedSurface& facets) {
        Vec3 low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
        const auto take = [&](Vec3 p) {
            for (int axis = 0; axis < 3; ++axis) {
                low[axis] = std::min(low[axis], p[axis]);
                high[axis] = std::max(high[axis], p[axis]);
            }
        };
        const std::vector<TopoDS_Shape> faces = step::faces_of(solid);
        for (std::size_t f = 0; f < faces.size(); ++f) {
            if (body.faces()[f].kind == FaceKind::curved) continue;
            Bnd_Box box;
            BRepBndLib::AddOptimal(faces[f], box, false, false);
            if (box.IsVoid()) continue;
            for (const gp_Pnt& p : {box.CornerMin(), box.CornerMax()}) take(step::millimetre * Vec3{p.X(), p.Y(), p.Z()});
        }
        for (std::size_t t = 0; t < facets.triangles.size(); ++t) {
            if (body.faces()[facets.face[t]].kind != FaceKind::curved) continue;
            for (const std::uint32_t corner : facets.triangles[t]) take(facets.corners[corner]);
        }
        return {.size = high - low, .at = low};
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
                 ->GetMaterial(node->Father()->Label(), name, description, density, density_name, density_type) ||
            name.IsNull())
            return {};
        return plain(name->ToCString());
    }

    /// Of the surface before that of everything; of a label, or of a shape of the document.
    std::string colour_of(const auto& of) const {
        const Handle(XCAFDoc_ColorTool) tool = XCAFDoc_DocumentTool::ColorTool(document_->Main());
        Quantity_Color colour;
        for (const XCAFDoc_ColorType type : {XCAFDoc_ColorSurf, XCAFDoc_ColorGen}) {
            if (!tool->GetColor(of, type, colour)) continue;
            return Quantity_Color::ColorToHex(colour).ToCString();
        }
        return {};
    }

    /// What the file calls its faces; what stands for no name there is none.
    void find_face_names() {
        const Handle(XSControl_WorkSession) session = reader_.Reader().WS();
        const Handle(Transfer_TransientProcess) process = session->TransferReader()->TransientProcess();
        const Handle(Interface_InterfaceModel) entities = session->Model();
        for (int n = 1; n <= entities->NbEntities(); ++n) {
            const Handle(StepShape_Face) entity = Handle(StepShape_Face)::DownCast(entities->Value(n));
            if (entity.IsNull() || entity->Name().IsNull()) continue;
            const std::string name = plain(entity->Name()->ToCString());
            if (name.empty() || name == "NONE" || name == "none") continue;
            const TopoDS_Shape face = TransferBRep::ShapeResult(process, entity);
            if (!face.IsNull()) face_names_[face.TShape().get()] = name;
        }
    }

    std::string face_name(const TopoDS_Shape& face) const {
        const auto found = face_names_.find(face.TShape().get());
        return found == face_names_.end() ? std::string() : found->second;
    }

    /// Numbers in brackets tell solids of one name apart, and those that are called like a copy of another: "screw 2".
    void name_apart() {
        std::set<std::string> taken;
        for (Draft& draft : out_) taken.insert(draft.told.name);
        std::set<std::string> given;
        for (Draft& draft : out_) {
            const std::string name = draft.told.name;
            const auto copy = [&](std::size_t n) { return fmt::format("{} {}", draft.told.name, n + 1); };
            const std::size_t copies = draft.told.copies.size() > 1 ? draft.told.copies.size() : 0;
            const auto clashes = [&] {
                if (given.contains(draft.told.name)) return true;
                for (std::size_t n = 0; n < copies; ++n) {
                    if (taken.contains(copy(n)) || given.contains(copy(n))) return true;
                }
                return false;
            };
            for (int n = 2; clashes(); ++n) draft.told.name = fmt::format("{} ({})", name, n);
            given.insert(draft.told.name);
            for (std::size_t n = 0; n < copies; ++n) given.insert(copy(n));
        }
    }

    std::string_view bytes_;
    std::string name_;
    STEPCAFControl_Reader reader_;
    Handle(TDocStd_Document) document_;
    Handle(XCAFDoc_ShapeTool) shapes_;
    std::map<std::string, std::vector<StepCopy>> copies_;  // by product
    std::map<std::string, std::string> colours_;           // of copies, by product
    std::vector<TDF_Label> leaves_;
    std::unordered_map<const void*, std::string> face_names_;
    std::size_t products_ = 0;
    std::vector<Draft> out_;
};

json told_as_json(const StepSolid& s) {
    json copies = json::array();
    for (const StepCopy& copy : s.copies) {
        json place = json::array();
        for (const Vec3& v : {copy.place.columns[0], copy.place.columns[1], copy.place.columns[2], copy.place.offset})
            place.insert(place.end(), {v.x, v.y, v.z});
        copies.push_back({{"place", place}, {"within", copy.within}});
    }
    return {{"name", s.name},
            {"why_not", s.why_not},
            {"repairs", s.repairs},
            {"material", s.material},
            {"colour", s.colour},
            {"copies", copies},
            {"box", {s.box.at.x, s.box.at.y, s.box.at.z, s.box.size.x, s.box.size.y, s.box.size.z}}};
}

StepSolid told_from_json(const json& j) {
    StepSolid s{.name = j.at("name"), .why_not = j.at("why_not"), .repairs = j.at("repairs"), .material = j.at("material"), .colour = j.at("colour")};
    const auto vec = [](const json& list, std::size_t from) { return Vec3{list.at(from), list.at(from + 1), list.at(from + 2)}; };
    for (const json& copy : j.at("copies")) {
        const json& place = copy.at("place");
        s.copies.push_back({{{vec(place, 0), vec(place, 3), vec(place, 6)}, vec(place, 9)}, copy.at("within")});
    }
    s.box = {.size = vec(j.at("box"), 3), .at = vec(j.at("box"), 0)};
    return s;
}

/// Everything as bytes: a line of JSON, then the shapes as the kernel stores them.
std::string packed(const std::vector<Draft>& drafts) {
    json head = json::array();
    TopoDS_Compound all;
    BRep_Builder builder;
    builder.MakeCompound(all);
    for (const Draft& draft : drafts) {
        json row = told_as_json(draft.told);
        row["faces"] = draft.face_names;
        head.push_back(std::move(row));
        if (draft.shape.IsNull()) continue;
        BRepTools::Clean(draft.shape);
        builder.Add(all, draft.shape);
    }
    std::ostringstream out;
    out << head.dump(-1, ' ', false, json::error_handler_t::replace) << '\n';
    BinTools::Write(all, out);
    return out.str();
}

StepImport unpacked(const std::string& bytes) {
    std::istringstream in(bytes);
    std::string line;
    std::getline(in, line);
    TopoDS_Shape all;
    BinTools::Read(all, in);
    StepImport out;
    std::vector<std::vector<TopoDS_Shape>> each;
    for (TopoDS_Iterator solid(all); solid.More(); solid.Next()) each.push_back({solid.Value()});
    // Solids that have faces in common get their own, so that the facets of one do not depend on when those of another are made.
    const bool apart = step::share_nothing(each);
    TopoDS_Iterator shape(all);
    for (const json& row : json::parse(line)) {
        StepSolid solid = told_from_json(row);
        if (solid.why_not.empty()) {
            const TopoDS_Shape own = apart ? shape.Value() : BRepBuilderAPI_Copy(shape.Value()).Shape();
            solid.geometry = step::make_body(own, solid.name, row.at("faces").get<std::vector<std::string>>());
            shape.Next();
        }
        out.solids.push_back(std::move(solid));
    }
    return out;
}

}  // namespace

StepImport step::read_bytes(std::string_view bytes, const std::string& name) {
    be_quiet();
    constexpr unsigned least_seconds = 10, seconds_a_megabyte = 15;
    constexpr std::uintmax_t least_memory = 3ULL << 30U, times_its_size = 20;
    const auto seconds = static_cast<unsigned>(least_seconds + seconds_a_megabyte * (bytes.size() >> 20U));
    const step::Answer answer = step::apart(
        [&]() -> std::string {
            try {
                return "+" + packed(Importer(bytes, name).run());
            } catch (const Error& error) {
                return std::string("-") + error.what();
            } catch (const Standard_Failure& failure) {
                return fmt::format("-{} cannot be used: its contents contradict themselves ({})", in_quotes(name), plain(failure.GetMessageString()));
            }
        },
        seconds, least_memory + times_its_size * bytes.size());
    if (answer.too_slow) refuse(name, fmt::format("it was not read in {} s", seconds));
    if (!answer.done || answer.bytes.empty()) refuse(name, "it is damaged: what it refers to is missing, or has the wrong form");
    if (answer.bytes.front() == '-') throw FileError(answer.bytes.substr(1));
    StepImport out = unpacked(answer.bytes.substr(1));
    out.schema = schema_of(bytes);
    return out;
}

}  // namespace firnfield
