// The report page: a results folder's findings as data for the template under web/.

#include <firnfield/model_file.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/report.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include "base/words.hpp"
#include "report/page_fields.hpp"
#include "report/page_template.hpp"
#include "report/phrases.hpp"
#include "report/why.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <map>

namespace firnfield {

extern const unsigned char page_js_bytes[], page_css_bytes[], uplot_css_bytes[], page_mustache_bytes[];
extern const std::size_t page_js_size, page_css_size, uplot_css_size, page_mustache_size;

namespace {

using Json = nlohmann::ordered_json;

std::string text_of(const unsigned char* bytes, std::size_t size) { return {reinterpret_cast<const char*>(bytes), size}; }

Json read_json(const std::filesystem::path& file) {
    try {
        return Json::parse(read_file(file));
    } catch (const Json::exception&) {
        throw FileError(fmt::format("{} is not what firnfield writes", in_quotes(file.string())));
    }
}

std::string number(const Json& value, int decimals) { return value.is_number() ? fmt::format("{:.{}f}", value.get<double>(), decimals) : "–"; }
std::string signed_number(double value, int decimals) { return fmt::format("{:+.{}f}", value, decimals); }
Vec3 point(const Json& at) { return {at.at(0), at.at(1), at.at(2)}; }
/// A lumped node has no place.
std::string place(const Json& at) { return at.is_null() ? std::string("(a lumped node)") : firnfield::place(point(at)); }

/// What can stand inside a script element: no "<" that could begin markup there, of which "<!--" is the worst. In JSON one only stands in texts.
std::string for_script(const std::string& json) {
    std::string out;
    for (const char c : json) out += c == '<' ? "\\u003c" : std::string(1, c);
    return out;
}

class Page {
public:
    Page(const std::filesystem::path& folder, const PageOptions& options) : folder_(folder), options_(options), summary_(read_json(folder / "summary.json")) {
        if (!summary_.contains("studies"))
            throw FileError(fmt::format("{} holds a comparison; name a results folder of solve, and it with --comparison", in_quotes(folder.string())));
        model_ = read_model(folder / "model.toml");
        names_ = ResultNames(model_);
    }

    std::string write() {
        tell("tables");
        head();
        limits();
        for (std::size_t n = 0; n < summary_.at("studies").size(); ++n) study(summary_.at("studies")[n], n);
        describe_model();
        compare();
        view();
        out_["style"] = text_of(uplot_css_bytes, uplot_css_size) + text_of(page_css_bytes, page_css_size);
        out_["script"] = text_of(page_js_bytes, page_js_size);
        return render_strictly(text_of(page_mustache_bytes, page_mustache_size), out_);
    }

private:
    void tell(const std::string& stage) const {
        if (options_.progress) options_.progress(stage);
    }

    void head() {
        std::size_t limits = 0, missed = 0;
        double seconds = 0.0;
        for (const Json& s : summary_.at("studies")) {
            for (const Json& l : s.at("limits")) {
                ++limits;
                missed += l.at("kept").get<bool>() ? 0U : 1U;
            }
            if (s.contains("solver")) {
                const Json times = s.at("solver").value("seconds", Json::object());
                for (const Json& time : times) seconds += time.is_number() ? time.get<double>() : 0.0;
            }
        }
        const std::string title = summary_.at("title");
        out_["title"] = title.empty() ? "Assembly" : title;
        out_["version"] = summary_.at("firnfield");
        out_["fingerprint"] = summary_.at("fingerprint");
        out_["verdict"] = limits == 0   ? "No limits set"
                          : missed == 0 ? fmt::format("All {} limits kept", limits)
                                        : fmt::format("{} of {} limits missed", missed, limits);
        out_["verdict_class"] = limits == 0 ? "none" : missed == 0 ? "kept" : "missed";
        out_["verdict_mark"] = limits == 0 ? "–" : missed == 0 ? "✓" : "✗";
        std::string origin = fmt::format("{} stud{}", summary_.at("studies").size(), summary_.at("studies").size() == 1 ? "y" : "ies");
        if (summary_.contains("from") && !summary_.at("from").at("design").get<std::string>().empty())
            origin += fmt::format(" · variant {}", summary_.at("from").at("design").get<std::string>());
        if (summary_.contains("from")) {
            for (const Json& c : summary_.at("from").at("changes"))
                origin += fmt::format(" · {} = {}", c.at("address").get<std::string>(), c.at("value").get<std::string>());
        }
        out_["origin"] = origin + fmt::format(" · solved in {}", duration(seconds));
        out_["studies"] = Json::array();
    }

    /// The tightest first, over all studies.
    void limits() {
        struct Row {
            double margin;
            Json json;
        };
        std::vector<Row> rows;
        Json warnings = Json::array();
        for (const Json& s : summary_.at("studies")) {
            for (const Json& l : s.at("limits")) {
                const Json& worst = l.at("worst");
                std::string where = fmt::format("{} {}", worst.at("body").get<std::string>(), place(worst.at("at")));
                if (worst.contains("time")) where += ", at " + duration(worst.at("time"));
                const bool kept = l.at("kept");
                rows.push_back({l.at("margin"),
                                {{"study", s.at("study").at("name")},
                                 {"mark", kept ? "✓ kept" : "✗ missed"},
                                 {"row_class", kept ? "kept" : "missed"},
                                 {"subject", l.at("subject")},
                                 {"limit", fmt::format("{} {:.1f}", l.at("kind") == "below" ? "<" : ">", l.at("limit").get<double>())},
                                 {"found", number(worst.at("temperature"), 1)},
                                 {"margin", signed_number(l.at("margin"), 1)},
                                 {"where", where}}});
            }
            for (const Json& w : s.at("warnings")) {
                const Json row{{"text", w.at("message")}};
                if (std::find(warnings.begin(), warnings.end(), row) == warnings.end()) warnings.push_back(row);
            }
        }
        std::stable_sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) { return a.margin < b.margin; });
        // The first dozen, and all that are missed.
        constexpr std::size_t dozen = 12;
        out_["limits"] = out_["more_limits"] = Json::array();
        for (std::size_t r = 0; r < rows.size(); ++r) out_[r < dozen || rows[r].margin < 0.0 ? "limits" : "more_limits"].push_back(std::move(rows[r].json));
        out_["has_limits"] = !rows.empty();
        out_["has_more_limits"] = !out_["more_limits"].empty();
        out_["more_limits_count"] = std::to_string(out_["more_limits"].size());
        out_["has_warnings"] = !warnings.empty();
        out_["warnings"] = std::move(warnings);
    }

    void study(const Json& s, std::size_t n) {
        const std::string name = s.at("study").at("name");
        const bool steady = !s.contains("end_time");
        const Json& now = steady ? s : s.at("end");
        Json row{{"id", std::to_string(n)}, {"name", name}, {"steady", steady}};
        const std::vector<Study> studies = studies_of(model_);
        const auto described = std::find_if(studies.begin(), studies.end(), [&](const Study& study) { return study.name == name; });
        row["describe"] = described == studies.end() ? std::string() : describe(*described) + ".";
        row["outcome"] = fmt::format("Hottest: {} °C in {}.", number(s.at("hottest").at("temperature"), 1), s.at("hottest").at("body").get<std::string>());
        row["parts"] = Json::array();
        for (const Json& p : s.at("parts")) {
            row["parts"].push_back(
                {{"name", p.at("name")},
                 {"power", p.contains("power") && p.at("power").get<double>() != 0.0 ? number(p.at("power"), 2) : ""},
                 {"coldest", number(p.at("coldest").at("temperature"), 1)},
                 {"mean", number(p.at("mean"), 1)},
                 {"hottest", number(p.at("hottest").at("temperature"), 1)},
                 {"where", place(p.at("hottest").at("at")) + (p.at("hottest").contains("time") ? ", " + duration(p.at("hottest").at("time")) : "")}});
        }
        row["sensors"] = Json::array();
        for (const Json& sensor : s.at("sensors")) {
            row["sensors"].push_back(
                {{"name", sensor.at("name")},
                 {"in", sensor.at("in").is_null() ? Json("lumped node") : sensor.at("in")},
                 {"temperature", sensor.contains("temperature") ? number(sensor.at("temperature"), 1)
                                                                : fmt::format("{} … {}", number(sensor.at("lowest"), 1), number(sensor.at("highest"), 1))}});
        }
        row["has_sensors"] = !row["sensors"].empty();
        row["joints"] = Json::array();
        for (const Json& j : now.at("joints")) {
            const bool forward = j.at("flow").get<double>() >= 0.0;
            row["joints"].push_back({{"between", fmt::format("{} → {}", j.at(forward ? "first" : "second").get<std::string>(),
                                                             j.at(forward ? "second" : "first").get<std::string>())},
                                     {"contact", j.at("contact")},
                                     {"area", fmt::format("{:.4g}", 1e4 * j.at("area").get<double>())},
                                     {"flow", fmt::format("{:.3f}", std::abs(j.at("flow").get<double>()))},
                                     {"drop", fmt::format("{:.2f}", std::abs(j.at("drop").get<double>()))}});
        }
        for (const Json& r : now.value("resistors", Json::array())) {
            const bool forward = r.at("flow").get<double>() >= 0.0;
            row["joints"].push_back({{"between", fmt::format("{} → {}", r.at(forward ? "first" : "second").get<std::string>(),
                                                             r.at(forward ? "second" : "first").get<std::string>())},
                                     {"contact", fmt::format("resistor {}, {:.4g} K/W", r.at("name").get<std::string>(), r.at("resistance").get<double>())},
                                     {"area", ""},
                                     {"flow", fmt::format("{:.3f}", std::abs(r.at("flow").get<double>()))},
                                     {"drop", fmt::format("{:.2f}", std::abs(r.at("drop").get<double>()))}});
        }
        row["has_joints"] = !row["joints"].empty();
        ledger(s, steady, row);
        bars(s, row);
        row["why"] = s.contains("why") ? Json::array({why(s.at("why"))}) : Json::array();
        pictures(name, row);
        history(name, n, s, row);
        row["solver"] = solver_line(s, now);
        out_["studies"].push_back(std::move(row));
    }

    static std::string solver_line(const Json& s, const Json& now) {
        std::string out = fmt::format("{} cells", grouped(now.at("cells").get<unsigned long long>()));
        if (s.contains("solver") && s.at("solver").contains("linear_method")) {
            out += fmt::format("; {} Newton steps, {} linear iterations, {}; heat residual {:.1e}", s.at("solver").at("newton_iterations").get<int>(),
                               s.at("solver").at("linear_iterations").get<int>(), s.at("solver").at("linear_method").get<std::string>(),
                               s.at("solver").at("residual").get<double>());
        }
        return out + ".";
    }

    static void ledger(const Json& s, bool steady, Json& row) {
        row["ledger"] = Json::array();
        row["ledger_title"] = steady ? "Heat balance" : "Energy over the whole time";
        row["ledger_unit"] = steady ? "W" : "J";
        const auto add = [&](std::string_view way, const std::string& name, double amount) {
            row["ledger"].push_back({{"way", way}, {"name", name}, {"heat", steady ? fmt::format("{:.3f}", amount) : fmt::format("{:.4g}", amount)}});
        };
        if (steady) {
            for (const Json& l : s.at("loads")) add("in", l.at("name"), l.at("heat"));
            for (const Json& c : s.at("coolings")) {
                add("out", c.at("name").get<std::string>() + ", convection", c.at("convection"));
                if (c.at("radiation").get<double>() != 0.0) add("out", c.at("name").get<std::string>() + ", radiation", c.at("radiation"));
            }
            for (const Json& h : s.at("holds")) add("out", h.at("name").get<std::string>() + ", held", h.at("flow"));
            for (const Json& r : s.value("resistors", Json::array())) {
                if (r.at("to_ambient").get<bool>()) add("out", r.at("name").get<std::string>() + ", resistor", r.at("flow"));
            }
            row["ledger"].push_back({{"way", "left over"}, {"name", ""}, {"heat", fmt::format("{:.1e}", s.at("ledger").at("residual").get<double>())}});
            return;
        }
        const Json& e = s.at("energy");
        for (const Json& l : e.at("loads")) add("in", l.at("name"), l.at("energy"));
        constexpr std::array ways{std::pair{"convection", "convection"}, std::pair{"radiation", "radiation"}, std::pair{"holds", "held"},
                                  std::pair{"resistors", "resistor"}};
        for (const auto& [list, how] : ways) {
            for (const Json& c : e.value(list, Json::array())) {
                if (c.at("energy").get<double>() != 0.0) add("out", fmt::format("{}, {}", c.at("name").get<std::string>(), how), c.at("energy"));
            }
        }
        add("stored", "", e.at("stored"));
        row["ledger"].push_back({{"way", "left over"}, {"name", ""}, {"heat", fmt::format("{:.1e}", e.at("residual").get<double>())}});
    }

    static void bars(const Json& s, Json& row) {
        row["bars"] = Json::array();
        if (s.contains("error_bars")) {
            for (const Json& b : s.at("error_bars").at("bars")) {
                const std::string unit = b.at("unit");
                row["bars"].push_back({{"kind", b.at("kind")},
                                       {"name", b.at("name")},
                                       {"value", fmt::format("{:.2f} {}", b.at("value").get<double>(),
                                                             unit == "degC" ? "°C"
                                                             : unit == "W"  ? "W"
                                                                            : "W/(m² K)")},
                                       {"error", fmt::format("{:.2g}", b.at("error").get<double>())},
                                       {"trust", b.at("trusted").get<bool>() ? "" : "meshes do not agree on an order"}});
            }
        }
        row["has_bars"] = !row["bars"].empty();
    }

    static Json why(const Json& w) {
        Explanation e;
        e.subject = w.at("subject");
        e.coldest = w.at("place") == "coldest";
        const Json& at = w.at("spot").at("at");
        e.spot = {w.at("spot").at("temperature").get<double>() + zero_celsius, at.is_null() ? Vec3{} : point(at), w.at("spot").at("body"), at.is_null()};
        e.base = w.at("base").get<double>() + zero_celsius;
        e.rise = w.at("rise");
        if (w.at("time").is_number()) e.time = w.at("time").get<double>();
        if (w.at("limit").is_number()) e.limit = w.at("limit").get<double>() + zero_celsius;
        Json out{{"headline", headline(e)}};
        for (const char* key : {"along", "by_load"}) {
            std::vector<Contribution> all;
            for (const Json& c : w.at(key)) all.push_back({c.at("kind"), c.at("name"), c.at("rise"), {}});
            out[key] = Json::array();
            for (const Contribution& c : main_pieces(all, e.rise, 12)) {
                const double share = e.rise != 0.0 ? c.rise / e.rise : 0.0;
                out[key].push_back({{"name", phrase(c)},
                                    {"kelvin", signed_number(c.rise, 2) + " K"},
                                    {"share", fmt::format("{:.1f} %", 100.0 * share)},
                                    {"width", fmt::format("{:.1f}", std::min(100.0, 100.0 * std::abs(share)))},
                                    {"bar_class", c.rise < 0.0 ? "minus" : "plus"}});
            }
        }
        out["changes"] = Json::array();
        double largest = 0.0;
        for (const Json& s : w.at("sensitivities")) largest = std::max(largest, std::abs(s.at("change").get<double>()));
        for (const Json& s : w.at("sensitivities")) {
            const double change = s.at("change");
            constexpr std::size_t most = 12;
            if (out["changes"].size() == most || std::abs(change) < 0.005 * largest) break;
            out["changes"].push_back({{"step", s.at("step")},
                                      {"name", phrase(Sensitivity{s.at("kind"), s.at("name"), change})},
                                      {"kelvin", signed_number(change, 2) + " K"},
                                      {"width", fmt::format("{:.1f}", 100.0 * std::abs(change) / largest)},
                                      {"bar_class", change < 0.0 ? "minus" : "plus"}});
        }
        out["has_changes"] = !out["changes"].empty();
        return out;
    }

    /// The first picture of the study, and the one that explains.
    void pictures(const std::string& study, Json& row) {
        row["pictures"] = Json::array();
        const auto add = [&](const std::filesystem::path& file, const std::string& caption, const std::string& alt) {
            if (!std::filesystem::exists(file)) return;
            row["pictures"].push_back({{"uri", "data:image/png;base64," + base64(read_file(file))}, {"caption", caption}, {"alt", alt}});
        };
        const Picture first = pictures_of(model_).front();
        add(folder_ / "pictures" / (names_.picture(study, first.name) + ".png"), "Temperatures, view " + first.name,
            fmt::format("The assembly coloured by temperature, study {}; hot spots are named with their temperatures, which the tables list", study));
        add(folder_ / "pictures" / (names_.study(study) + " - why.png"), "Where the rise is made",
            "The parts coloured by the kelvin that conduction in each of them makes; the table of the heat path lists the same");
        row["has_pictures"] = !row["pictures"].empty();
    }

    void history(const std::string& study, std::size_t n, const Json& s, Json& row) {
        const std::filesystem::path file = folder_ / "history" / (names_.study(study) + ".csv");
        row["has_history"] = std::filesystem::exists(file);
        if (!row["has_history"].get<bool>()) return;
        const History all = read_history(file);
        if (all.time.empty()) {
            row["has_history"] = false;
            return;
        }
        // Parts with limits first, then the others by their highest temperature; sensors behind them.
        std::vector<std::string> limited;
        std::map<std::pair<double, std::string>, std::vector<std::string>> levels;  // limits at the same height share a label
        for (const Json& l : s.at("limits")) {
            limited.push_back(l.at("subject"));
            levels[{l.at("limit"), l.at("kind") == "below" ? "<" : ">"}].push_back(l.at("subject"));
        }
        Json limits = Json::array();
        for (const auto& [level, subjects] : levels)
            limits.push_back({{"value", level.first}, {"text", fmt::format("{} {} {:g}", fmt::join(subjects, ", "), level.second, level.first)}});
        struct Column {
            std::string name;
            std::size_t at;
            double rank;
        };
        std::vector<Column> columns;
        for (std::size_t c = 0; c < all.columns.size(); ++c) {
            const std::string& name = all.columns[c];
            constexpr std::string_view part_end = " max (degC)";
            if (!name.ends_with(part_end)) continue;
            const std::string part = name.substr(0, name.size() - part_end.size());
            double highest = -1e300;
            for (const auto& values : all.rows) highest = std::max(highest, values[c]);
            const bool has_limit = std::find(limited.begin(), limited.end(), part) != limited.end();
            columns.push_back({part, c, highest + (has_limit ? 1e6 : 0.0)});
        }
        std::stable_sort(columns.begin(), columns.end(), [](const Column& a, const Column& b) { return a.rank > b.rank; });
        constexpr std::size_t most_columns = 6, most_rows = 1200;
        if (columns.size() > most_columns) columns.resize(most_columns);
        const std::size_t stride = 1 + all.time.size() / most_rows;
        Json times = Json::array(), series = Json::array();
        for (std::size_t r = 0; r < all.time.size(); r += stride) times.push_back(all.time[r]);
        for (const Column& c : columns) {
            Json values = Json::array();
            for (std::size_t r = 0; r < all.rows.size(); r += stride) values.push_back(std::round(100.0 * all.rows[r][c.at]) / 100.0);
            series.push_back({{"name", c.name}, {"values", std::move(values)}});
        }
        histories_[std::to_string(n)] = {{"time", std::move(times)}, {"columns", std::move(series)}, {"limits", std::move(limits)}};
    }

    void describe_model() {
        Json& parts = out_["model_parts"] = Json::array();
        std::map<std::string, const Json*> found;
        if (!summary_.at("studies").empty()) {
            const Json& first = summary_.at("studies")[0];
            for (const Json& p : (first.contains("end") ? first.at("end") : first).at("parts")) found[p.at("name")] = &p;
        }
        std::vector<std::string> materials;
        for (const Part& part : model_.parts) {
            const auto row = found.find(part.name);
            parts.push_back(
                {{"name", part.name},
                 {"shape", part.include ? std::string(name_of(part.shape)) : "left out"},
                 {"material", part.material},
                 {"copies", row == found.end() ? "–" : std::to_string(row->second->at("copies").get<int>())},
                 {"mass",
                  row == found.end() || !row->second->at("mass").is_number() ? "–" : show_quantity(row->second->at("mass").get<double>(), kinds::mass)}});
            if (std::find(materials.begin(), materials.end(), part.material) == materials.end()) materials.push_back(part.material);
        }
        for (const Joint& joint : model_.joints) {
            if (joint.layer && std::find(materials.begin(), materials.end(), joint.layer->material) == materials.end())
                materials.push_back(joint.layer->material);
        }
        Json& rows = out_["materials"] = Json::array();
        const auto value = [](const std::optional<double>& v) { return v ? fmt::format("{:.4g}", *v) : std::string("–"); };
        for (const std::string& name : materials) {
            const Material* m = find_material(model_.materials, name);
            if (m == nullptr) continue;
            rows.push_back(
                {{"name", name},
                 {"conductivity", m->isotropic() ? fmt::format("{:.4g}", m->conductivity[0])
                                                 : fmt::format("{:.4g} / {:.4g} / {:.4g}", m->conductivity[0], m->conductivity[1], m->conductivity[2])},
                 {"density", value(m->density)},
                 {"specific_heat", value(m->specific_heat)},
                 {"note", m->note}});
        }
        Json& joints = out_["model_joints"] = Json::array();
        for (const Joint& j : model_.joints) {
            std::string contact = "perfect";
            if (j.resistance) contact = show_quantity(*j.resistance, kinds::area_resistance);
            if (j.total) contact = show_quantity(*j.total, kinds::thermal_resistance) + ", of each pair";
            if (j.layer) contact = fmt::format("{} of {}", show_quantity(j.layer->thickness, kinds::length), j.layer->material);
            if (j.insulated) contact = "insulated";
            if (j.exchange_factor) contact = fmt::format("radiation, factor {:.3g}", *j.exchange_factor);
            joints.push_back({{"name", display_name(j)}, {"between", fmt::format("{} and {}", j.between[0], j.between[1])}, {"contact", contact}});
        }
        Json& powers = out_["powers"] = Json::array();
        for (const Power& p : model_.powers) {
            std::string amount;
            if (p.total) amount = show_quantity(*p.total, kinds::power) + " in total";
            if (p.each) amount = show_quantity(*p.each, kinds::power) + " each";
            if (p.density) amount = show_quantity(*p.density, kinds::power_density);
            if (p.flux) amount = show_quantity(*p.flux, kinds::heat_flux);
            powers.push_back({{"name", display_name(p)},
                              {"where", p.on ? words(*p.on) : fmt::format("{}", fmt::join(p.into, ", "))},
                              {"amount", amount},
                              {"profile", fmt::format("{}", fmt::join(p.profile, " × "))}});
        }
        Json& coolings = out_["coolings"] = Json::array();
        for (std::size_t c = 0; c < model_.coolings.size(); ++c) {
            const Cooling& cooling = model_.coolings[c];
            std::string how;
            if (cooling.convection) how = show_quantity(*cooling.convection, kinds::heat_transfer_coefficient);
            if (cooling.law) how = "law " + cooling.law->law;
            if (!cooling.convection_curve.empty()) how = "convection by a curve";
            if (cooling.emissivity) how += fmt::format("{}emissivity {:g}", how.empty() ? "" : ", ", *cooling.emissivity);
            if (cooling.material_emissivity) how += ", emissivity of the materials";
            how += cooling.ambient ? fmt::format(", to {}", show_celsius(*cooling.ambient)) : ", to the study's ambient";
            coolings.push_back({{"name", display_name(cooling, c)}, {"on", words(cooling.on)}, {"how", how}});
        }
        for (std::size_t h = 0; h < model_.holds.size(); ++h) {
            coolings.push_back({{"name", display_name(model_.holds[h], h)},
                                {"on", words(model_.holds[h].on)},
                                {"how", "held at " + show_celsius(model_.holds[h].temperature)}});
        }
        Json& studies = out_["model_studies"] = Json::array();
        for (const Study& s : studies_of(model_)) studies.push_back({{"name", s.name}, {"what", describe(s)}});
    }

    static std::string words(const Selection& pick) {
        if (pick.rest) return "all that is exposed and not claimed otherwise";
        std::vector<std::string> pieces;
        if (!pick.surfaces.empty()) pieces.push_back(fmt::format("{}", fmt::join(pick.surfaces, ", ")));
        if (!pick.parts.empty()) pieces.push_back(fmt::format("of {}", fmt::join(pick.parts, ", ")));
        if (!pick.sides.empty()) pieces.push_back(fmt::format("sides {}", fmt::join(pick.sides, ", ")));
        return pieces.empty() ? "a rule" : fmt::format("{}", fmt::join(pieces, ", "));
    }

    void compare() {
        out_["comparison"] = Json::array();
        out_["base"] = "";
        out_["has_comparison"] = !options_.comparison.empty();
        if (options_.comparison.empty()) return;
        const Json c = read_json(options_.comparison / "summary.json");
        if (!c.contains("figures")) throw FileError(fmt::format("{} holds no comparison", in_quotes(options_.comparison.string())));
        const std::string base = c.at("base");
        out_["base"] = base;
        const Json& designs = c.at("designs");
        std::size_t base_at = 0;
        while (base_at + 1 < designs.size() && designs[base_at].at("name") != base) ++base_at;
        // One table for each study: a row for each design, a column for each limit and each time.
        std::vector<std::string> studies;
        for (const Json& f : c.at("figures")) {
            if (std::find(studies.begin(), studies.end(), f.at("study")) == studies.end()) studies.push_back(f.at("study"));
        }
        for (const std::string& study : studies) {
            Json columns = Json::array(), rows = Json::array();
            for (const Json& d : designs) rows.push_back({{"name", d.at("name")}, {"cells", Json::array()}});
            for (const Json& f : c.at("figures")) {
                const bool margin = f.at("kind") == "margin";
                if (f.at("study") != study || (!margin && f.at("unit") != "s")) continue;
                columns.push_back({{"name", margin ? fmt::format("margin of {} at {:.0f} °C, K", f.at("name").get<std::string>(), f.at("limit").get<double>())
                                                   : fmt::format("{} {}", f.at("kind").get<std::string>(), f.at("name").get<std::string>())}});
                for (std::size_t d = 0; d < designs.size(); ++d) rows[d]["cells"].push_back(compared_cell(f, d, base_at, designs[d].at("name")));
            }
            out_["comparison"].push_back({{"study", study}, {"columns", std::move(columns)}, {"rows", std::move(rows)}});
        }
    }

    static Json compared_cell(const Json& f, std::size_t d, std::size_t base, const Json& design) {
        if (!f.at("values")[d].is_number()) return {{"text", "–"}, {"cell_class", ""}};
        const bool time = f.at("unit") == "s";
        const double value = f.at("values")[d];
        std::string text = time ? duration(value) : signed_number(value, 1);
        if (d != base && f.at("differences")[d].is_number()) {
            const double difference = f.at("differences")[d];
            const std::string change = time                          ? (difference < 0.0 ? "-" : "+") + duration(std::abs(difference))
                                       : std::abs(difference) < 0.05 ? "="
                                                                     : signed_number(difference, 1);
            text += fmt::format(" ({}{})", f.at("uncertain")[d].get<bool>() ? "±" : "", change);
        }
        const bool best = f.at("best") == design;
        return {{"text", best ? "★ " + text : text}, {"cell_class", best ? "best" : ""}};
    }

    void view() {
        PageFields fields;
        if (options_.view && !model_.parts.empty()) {
            std::vector<KeptStudy> kept;
            const std::vector<Study> studies = studies_of(model_);
            for (const Json& s : summary_.at("studies")) {
                const std::string name = s.at("study").at("name");
                const auto study = std::find_if(studies.begin(), studies.end(), [&](const Study& other) { return other.name == name; });
                const std::filesystem::path file = folder_ / "fields" / (names_.study(name) + ".temperatures");
                if (study == studies.end() || !std::filesystem::exists(file)) continue;
                kept.push_back({*study, file, meshed_as_kept(model_, *study, folder_)});
            }
            fields = page_fields(model_, kept, options_.frames, [this](const std::string& stage) { tell(stage); });
        }
        out_["has_view"] = !fields.empty();
        std::string colours;
        for (int i = 0; i < 256; ++i) {
            for (const double c : temperature_colour(i / 255.0))
                colours += static_cast<char>(static_cast<unsigned char>(std::lround(255.0 * std::clamp(c, 0.0, 1.0))));
        }
        const Json data{{"histories", histories_}, {"colours", base64(colours)}, {"fields", Json::parse(fields.description)}};
        out_["data"] = for_script(data.dump());
        out_["fields"] = fields.packed;
    }

    std::filesystem::path folder_;
    const PageOptions& options_;
    Json summary_;
    Model model_;
    ResultNames names_{Model{}};
    Json out_ = Json::object(), histories_ = Json::object();
};

}  // namespace

std::string report_page(const std::filesystem::path& results, const PageOptions& options) {
    if (!std::filesystem::exists(results / "summary.json"))
        throw FileError(fmt::format("{} is no results folder: it has no summary.json", in_quotes(results.string())));
    try {
        return Page(results, options).write();
    } catch (const Json::exception& error) {
        throw FileError(fmt::format("{} was written by another version of firnfield; solve the model again ({})",
                                    in_quotes((results / "summary.json").string()), error.what()));
    }
}

}  // namespace firnfield
