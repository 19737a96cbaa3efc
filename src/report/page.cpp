// The report page: a results folder's findings as data for the template under web/.

#include <firnfield/model_file.hpp>
#include <firnfield/picture.hpp>
#include <firnfield/quantity.hpp>
#include <firnfield/report.hpp>
#include <firnfield/results.hpp>
#include <firnfield/version.hpp>

#include "base/words.hpp"
#include "io/cad_files.hpp"
#include "report/chart_lines.hpp"
#include "report/compare.hpp"
#include "report/finding_tables.hpp"
#include "report/model_tables.hpp"
#include "report/page_fields.hpp"
#include "report/page_geometry.hpp"
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

namespace {

using Json = nlohmann::ordered_json;

class Page {
public:
    Page(const std::filesystem::path& folder, const PageOptions& options)
        : folder_(folder),
          options_(options),
          summary_(read_summary(folder)),
          model_(read_model_file(folder / "model.toml", cad_).base()),
          names_(model_),
          units_(options.units.value_or(summary_.units)) {}

    std::string write() {
        tell("tables");
        head();
        limits();
        for (std::size_t n = 0; n < summary_.studies.size(); ++n) std::visit([&](const auto& found) { study(found, n); }, summary_.studies[n]);
        describe_model();
        compare();
        view();
        out_["style"] = page_style();
        out_["script"] = page_script();
        return render_strictly(report_template(), out_);
    }

private:
    void tell(const std::string& stage) const { announce(options_.progress, {.stage = stage}); }

    void head() {
        std::size_t limits = 0, missed = 0;
        double seconds = 0.0;
        for (const StudyFindings& study : summary_.studies) {
            std::visit(
                [&](const auto& f) {
                    limits += f.limits.size();
                    for (const auto& limit : f.limits) missed += limit.kept() ? 0U : 1U;
                    seconds += f.summary.mesh_seconds + f.summary.network_seconds + f.summary.solve_seconds;
                },
                study);
        }
        out_["title"] = summary_.title.empty() ? "Assembly" : summary_.title;
        out_["version"] = summary_.version;
        out_["fingerprint"] = summary_.fingerprint;
        const std::string reason = stale(folder_, summary_.from, summary_.fingerprint, cad_);
        out_["has_stale"] = !reason.empty();
        out_["stale"] = reason;
        out_["verdict"] = limits == 0   ? "No limits set"
                          : missed == 0 ? fmt::format("All {} limits kept", limits)
                                        : fmt::format("{} of {} limits missed", missed, limits);
        out_["verdict_class"] = limits == 0 ? "none" : missed == 0 ? "kept" : "missed";
        out_["verdict_mark"] = limits == 0 ? "–" : missed == 0 ? "✓" : "✗";
        std::string origin = fmt::format("{} stud{}", summary_.studies.size(), summary_.studies.size() == 1 ? "y" : "ies");
        if (!summary_.from.design.empty()) origin += fmt::format(" · variant {}", summary_.from.design);
        for (const Change& c : summary_.from.changes) origin += fmt::format(" · {} = {}", c.address, c.value);
        out_["origin"] = origin + fmt::format(" · solved in {}", duration(seconds));
        out_["studies"] = Json::array();
    }

    /// The tightest first, over all studies: a dozen and all that are missed, then the others.
    void limits() {
        FindingTable shown = limits_table(summary_.studies, units_), more = shown;
        const auto missed = static_cast<std::size_t>(std::count(shown.kept.begin(), shown.kept.end(), false));
        const std::size_t first = std::min(shown.rows.size(), std::max<std::size_t>(12, missed));
        more.rows.erase(more.rows.begin(), more.rows.begin() + static_cast<std::ptrdiff_t>(first));
        more.kept.erase(more.kept.begin(), more.kept.begin() + static_cast<std::ptrdiff_t>(first));
        shown.rows.resize(first);
        out_["has_limits"] = !shown.empty();
        out_["has_more_limits"] = !more.empty();
        out_["more_limits_count"] = std::to_string(more.rows.size());
        out_["limits"] = table_json(shown);
        out_["more_limits"] = table_json(more);
        Json warnings = Json::array();
        for (const StudyFindings& study : summary_.studies) {
            for (const Warning& w : std::visit([](const auto& f) -> const std::vector<Warning>& { return f.warnings; }, study)) {
                const Json row{{"text", w.message}};
                if (std::find(warnings.begin(), warnings.end(), row) == warnings.end()) warnings.push_back(row);
            }
        }
        out_["has_warnings"] = !warnings.empty();
        out_["warnings"] = std::move(warnings);
    }

    /// What stands on the page of either kind of study; `tables` are its findings, `solved` how it was computed.
    Json study_json(const auto& f, std::size_t n, const Spot& hottest, const std::vector<FindingTable>& tables, const std::string& solved) {
        const std::string& name = f.study.name;
        Json row{{"id", std::to_string(n)}, {"name", name}};
        const std::vector<Study> studies = studies_of(model_);
        const auto described = std::find_if(studies.begin(), studies.end(), [&](const Study& study) { return study.name == name; });
        row["describe"] = described == studies.end() ? std::string() : firnfield::describe(*described, units_) + ".";
        row["outcome"] = fmt::format("Hottest: {} in {}.", show_temperature(hottest.temperature, units_), hottest.body);
        row["tables"] = Json::array();
        for (const FindingTable& table : tables) row["tables"].push_back(table_json(table));
        row["why"] = f.why ? Json::array({why(*f.why, units_)}) : Json::array();
        pictures(name, row);
        history(n, f, row);
        row["solver"] = solved;
        return row;
    }

    void study(const Findings& f, std::size_t n) {
        std::vector<FindingTable> tables = finding_tables(f, units_);
        if (FindingTable bars = error_bars_table(f, units_); !bars.empty()) tables.push_back(std::move(bars));
        const std::string refined = refinement_note(f, units_);
        const std::string solved = fmt::format("{} cells; {}.{}", grouped(f.cells), f.summary.text(), refined.empty() ? "" : " " + refined + ".");
        out_["studies"].push_back(study_json(f, n, f.hottest, tables, solved));
    }

    void study(const TimeFindings& f, std::size_t n) {
        std::vector<FindingTable> tables = finding_tables(f, units_);
        for (FindingTable& table : finding_tables(f.end, units_)) {
            if (table.title == "Joints" || table.title == "Resistors") tables.push_back(std::move(table)), tables.back().title += " at the end";
        }
        out_["studies"].push_back(study_json(f, n, f.hottest.spot, tables, fmt::format("{} cells; {}.", grouped(f.end.cells), f.summary.text())));
    }

    static Json pieces_json(const std::vector<Contribution>& all, double rise, const Units& units) {
        Json out = Json::array();
        const ShareOf share = share_of(all, rise);
        for (const Contribution& c : main_pieces(all, rise, 12)) {
            out.push_back({{"name", phrase(c)},
                           {"kelvin", degrees_apart(c.rise, units, 2, true) + " " + difference_unit(units)},
                           {"share", share.text(c.rise)},
                           {"width", fmt::format("{:.1f}", 100.0 * share.bar(c.rise))},
                           {"bar_class", c.rise < 0.0 ? "minus" : "plus"}});
        }
        return out;
    }

    static Json why(const Explanation& e, const Units& units) {
        Json out{{"headline", headline(e, units)},
                 {"along", pieces_json(e.along, e.rise, units)},
                 {"by_load", pieces_json(e.by_load, e.rise, units)},
                 {"changes", Json::array()}};
        double largest = 0.0;
        for (const Sensitivity& s : e.sensitivities) largest = std::max(largest, std::abs(s.change));
        for (const Sensitivity& s : e.sensitivities) {
            constexpr std::size_t most = 12;
            if (out["changes"].size() == most || std::abs(s.change) < 0.005 * largest) break;
            out["changes"].push_back({{"step", s.per_kelvin() ? one_degree(units) : "10 %"},
                                      {"name", phrase(s)},
                                      {"kelvin", change_text(s, units) + " " + difference_unit(units)},
                                      {"width", fmt::format("{:.1f}", 100.0 * std::abs(s.change) / largest)},
                                      {"bar_class", s.change < 0.0 ? "minus" : "plus"}});
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

    void history(std::size_t n, const auto& f, Json& row) {
        const std::filesystem::path file = folder_ / "history" / (names_.study(f.study.name) + ".csv");
        row["has_history"] = std::filesystem::exists(file);
        if (!row["has_history"].get<bool>()) return;
        const History all = read_history(file, summary_.units);
        const UnitOf scale = unit_of(kinds::temperature, units_);
        if (all.time.empty()) {
            row["has_history"] = false;
            return;
        }
        std::map<std::pair<double, std::string>, std::vector<std::string>> levels;  // limits at the same height share a label
        for (const auto& l : f.limits) {
            if (l.quantity->absolute_temperature) levels[{scale.out(l.limit), l.upper ? "<" : ">"}].push_back(l.subject);  // the chart is of temperatures
        }
        Json limits = Json::array();
        for (const auto& [level, subjects] : levels)
            limits.push_back({{"value", level.first}, {"text", fmt::format("{} {} {:g}", fmt::join(subjects, ", "), level.second, level.first)}});
        std::vector<ChartLine> columns;
        if constexpr (std::is_same_v<std::decay_t<decltype(f)>, TimeFindings>) columns = chart_lines(f, all);
        constexpr std::size_t most_rows = 2400;
        std::vector<std::size_t> shown;
        for (const ChartLine& c : columns) shown.push_back(c.column);
        const std::vector<std::size_t> rows = rows_of_chart(all, shown, most_rows);
        Json times = Json::array(), series = Json::array();
        for (const std::size_t r : rows) times.push_back(all.time[r]);
        for (const ChartLine& c : columns) {
            Json values = Json::array();
            for (const std::size_t r : rows) values.push_back(std::round(100.0 * scale.out(kinds::temperature.in(all.rows[r][c.column]))) / 100.0);
            series.push_back({{"name", c.name}, {"values", std::move(values)}});
        }
        histories_[std::to_string(n)] = {{"time", std::move(times)}, {"columns", std::move(series)}, {"limits", std::move(limits)}};
    }

    void describe_model() {
        static const std::vector<PartFinding> none;
        const auto parts_of = [](const auto& f) -> const std::vector<PartFinding>& {
            if constexpr (requires { f.end; }) {
                return f.end.parts;
            } else {
                return f.parts;
            }
        };
        out_["model"] = Json::array();
        for (const FindingTable& table : model_tables(model_, summary_.studies.empty() ? none : std::visit(parts_of, summary_.studies.front()), units_))
            out_["model"].push_back(table_json(table));
    }

    void compare() {
        out_["comparison"] = Json::array();
        out_["base"] = "";
        out_["has_comparison"] = !options_.comparison.empty();
        if (options_.comparison.empty()) return;
        const Comparison c = read_comparison(options_.comparison);
        out_["base"] = c.designs[c.base].name;
        // One table for each study: a row for each design, a column for each limit and each time.
        for (const std::string& study : c.studies()) {
            Json columns = Json::array(), rows = Json::array();
            for (const Outcome& d : c.designs) rows.push_back({{"name", d.name}, {"cells", Json::array()}});
            for (const ComparedFigure& f : c.figures) {
                if (f.study != study || info(f.what.kind).told != FigureInfo::Told::always) continue;
                columns.push_back({{"name", figure_label(f.what, units_)}});
                for (std::size_t d = 0; d < c.designs.size(); ++d)
                    rows[d]["cells"].push_back({{"text", compared_text(c, f, d, "★ ", "–", units_)}, {"cell_class", f.best == d ? "best" : ""}});
            }
            out_["comparison"].push_back({{"study", study}, {"columns", std::move(columns)}, {"rows", std::move(rows)}});
        }
    }

    void view() {
        PageFields fields;
        if (options_.view && !model_.parts.empty()) {
            std::vector<KeptStudy> kept;
            const std::vector<Study> studies = studies_of(model_);
            for (const StudyFindings& s : summary_.studies) {
                const std::string& name = std::visit([](const auto& f) -> const std::string& { return f.study.name; }, s);
                const auto study = std::find_if(studies.begin(), studies.end(), [&](const Study& other) { return other.name == name; });
                const std::filesystem::path file = folder_ / "fields" / (names_.study(name) + ".temperatures");
                if (study == studies.end() || !std::filesystem::exists(file)) continue;
                kept.push_back({*study, file, meshed_as_kept(model_, *study, summary_)});
            }
            fields = page_fields(model_, kept, options_.frames, units_, options_.progress);
        }
        out_["has_view"] = !fields.empty();
        std::string colours;
        for (int i = 0; i < 256; ++i) {
            for (const double c : temperature_colour(i / 255.0))
                colours += static_cast<char>(static_cast<unsigned char>(std::lround(255.0 * std::clamp(c, 0.0, 1.0))));
        }
        out_["degree"] = degree_unit(units_);
        const Json data{{"degree", degree_unit(units_)}, {"histories", histories_}, {"colours", base64(colours)}, {"fields", Json::parse(fields.description)}};
        out_["data"] = for_script(data.dump());
        out_["fields"] = fields.packed;
    }

    std::filesystem::path folder_;
    const PageOptions& options_;
    Summary summary_;
    std::shared_ptr<CadFiles> cad_ = std::make_shared<CadFiles>();  // the folder has copies of the files that its model names
    Model model_;
    ResultNames names_;
    Units units_;  // that the page tells in
    Json out_ = Json::object(), histories_ = Json::object();
};

}  // namespace

std::string report_page(const std::filesystem::path& results, const PageOptions& options) { return Page(results, options).write(); }

}  // namespace firnfield
