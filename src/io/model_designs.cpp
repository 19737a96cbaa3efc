// Variants and sweeps: a design is the file's own tables with some values replaced, read like any other model.

#include <firnfield/model_file.hpp>

#include "base/words.hpp"
#include "io/addresses.hpp"
#include "io/cad_files.hpp"
#include "io/model_tables.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <sstream>

namespace firnfield {
namespace {

/// As a model file has it, for lists of changes.
std::string shown(const toml::node& node) {
    if (const auto text = node.value_exact<std::string>()) return *text;
    std::ostringstream out;
    node.visit([&](const auto& n) { out << n; });
    return out.str();
}

/// Changes of a table in the order of the file.
std::vector<std::pair<std::string, toml::node*>> in_order(toml::table& table) {
    std::vector<std::pair<std::string, toml::node*>> rows;
    for (auto&& [key, node] : table) rows.emplace_back(std::string(key.str()), &node);
    std::sort(rows.begin(), rows.end(), [](const auto& a, const auto& b) {
        const toml::source_position &first = a.second->source().begin, &second = b.second->source().begin;
        return first.line != second.line ? first.line < second.line : first.column < second.column;
    });
    return rows;
}

/// The values of a swept address: a list, or from … to in equal steps or ratios.
std::vector<std::string> swept_values(toml::node& node) {
    std::vector<std::string> values;
    if (const toml::array* list = node.as_array()) {
        for (const toml::node& item : *list) values.push_back(shown(item));
        if (values.empty()) throw BadAddress("the list of values is empty");
        return values;
    }
    toml::table* range = node.as_table();
    constexpr std::string_view shape = "write a list of values, or { from = \"0.25 mm\", to = \"2 mm\", count = 8, spacing = \"log\" }";
    if (range == nullptr || !range->contains("from") || !range->contains("to") || !range->contains("count")) throw BadAddress(std::string(shape));
    for (const std::string& key : keys_of(*range)) {
        if (key != "from" && key != "to" && key != "count" && key != "spacing") throw BadAddress(fmt::format("unknown key {}; {}", in_quotes(key), shape));
    }
    const auto split = [&](const toml::node& end) {
        const std::string text = shown(end);
        std::size_t used = 0;
        double number = 0.0;
        try {
            number = std::stod(text, &used);
        } catch (const std::exception&) {
            throw BadAddress(fmt::format("found {}; {}", in_quotes(text), shape));
        }
        const std::size_t unit = text.find_first_not_of(' ', used);
        return std::pair{number, unit == std::string::npos ? std::string() : text.substr(unit)};
    };
    const auto [from, unit] = split(*range->get("from"));
    const auto [to, other_unit] = split(*range->get("to"));
    if (unit != other_unit) throw BadAddress(fmt::format("both ends take the same unit; found {} and {}", in_quotes(unit), in_quotes(other_unit)));
    const std::int64_t count = range->get("count")->value<std::int64_t>().value_or(0);
    if (count < 2 || count > 1000) throw BadAddress("count is a whole number from 2 to 1000");
    const std::string spacing = (*range)["spacing"].value_or(std::string("even"));
    if (spacing != "even" && spacing != "log") throw BadAddress(fmt::format("spacing is \"even\" or \"log\", found {}", in_quotes(spacing)));
    if (spacing == "log" && !(from * to > 0.0)) throw BadAddress("equal ratios need both ends on the same side of zero");
    for (std::int64_t n = 0; n < count; ++n) {
        const double share = static_cast<double>(n) / static_cast<double>(count - 1);
        const double value = n == 0 ? from : n == count - 1 ? to : spacing == "log" ? from * std::pow(to / from, share) : from + share * (to - from);
        // Short numbers: what is swept need not be exact, but what is shown has to be what is solved.
        values.push_back(fmt::format("{:.6g}{}{}", value, unit.empty() ? "" : " ", unit));
    }
    return values;
}

/// Reads [[variant]] and [[sweep]] without applying anything.
class DesignReader {
public:
    DesignReader(toml::table& root, Reading& reading) : root_(root), reading_(reading) {}

    std::vector<Design> run() {
        Fields file(root_, "", "", reading_);
        file.tables("variant", false, [&](Fields& f, std::size_t i) { read_variant(f, (*root_["variant"].as_array())[i].as_table()); });
        file.tables("sweep", false, [&](Fields& f, std::size_t i) { read_sweep(f, (*root_["sweep"].as_array())[i].as_table()); });
        return std::move(designs_);
    }

private:
    Design read_head(Fields& fields, std::string_view example) {
        Design design;
        fields.require("name", example);
        design.name = fields.text("name").value_or("");
        design.from = fields.text("from").value_or("");
        design.note = fields.text("note", true).value_or("");
        if (design.from == base_design) design.from.clear();
        const auto known = [&](const std::string& name) {
            return std::any_of(designs_.begin(), designs_.end(), [&](const Design& d) { return d.name == name && d.sweep.empty(); });
        };
        if (design.name == base_design || known(design.name)) fields.report(*fields.node("name"), fmt::format("there is another {}", in_quotes(design.name)));
        if (!design.from.empty() && !known(design.from)) {
            std::vector<std::string> names;
            for (const Design& d : designs_) names.push_back(d.name);
            fields.report(*fields.node("from"), fmt::format("no earlier variant is called {}{}", in_quotes(design.from), did_you_mean(design.from, names)));
        }
        return design;
    }

    void read_variant(Fields& fields, toml::table* table) {
        Design design = read_head(fields, "\"thicker pad\"");
        fields.require("change", "{ pad = \"1 mm\" }");
        if (const toml::node* change = fields.node("change"); change != nullptr && !change->is_table()) {
            fields.report(*change, fmt::format("change takes a table of addresses and values, found {}", describe_type(*change)));
        } else if (change != nullptr) {
            for (const auto& [address, node] : in_order(*table->get("change")->as_table())) design.changes.push_back({address, shown(*node)});
        }
        designs_.push_back(std::move(design));
    }

    void read_sweep(Fields& fields, toml::table* table) {
        const Design head = read_head(fields, "\"pad thickness\"");
        fields.require("over", "{ pad = [\"0.5 mm\", \"1 mm\"] }");
        const toml::node* over = fields.node("over");
        if (over == nullptr) return;
        if (!over->is_table() || over->as_table()->empty() || over->as_table()->size() > 2) {
            fields.report(*over, "over takes a table of one or two addresses and their values");
            return;
        }
        std::vector<Design> points{head};
        for (const auto& [address, node] : in_order(*table->get("over")->as_table())) {
            std::vector<Design> finer;
            try {
                const std::vector<std::string> values = swept_values(*node);
                constexpr std::size_t most_designs = 2000;
                if (designs_.size() + points.size() * values.size() > most_designs) {
                    throw BadAddress(fmt::format("the file would have {} designs, more than {}; sweep in larger steps",
                                                 designs_.size() + points.size() * values.size(), most_designs));
                }
                for (const Design& point : points) {
                    for (const std::string& value : values) {
                        Design next = point;
                        next.sweep = head.name;
                        next.name += fmt::format("{}{}", point.changes.empty() ? " " : ", ", value);
                        next.changes.push_back({address, value});
                        finer.push_back(std::move(next));
                    }
                }
            } catch (const BadAddress& error) {
                fields.report(*node, fmt::format("{}: {}", in_quotes(address), error.what()));
                return;
            }
            points = std::move(finer);
        }
        designs_.insert(designs_.end(), points.begin(), points.end());
    }

    toml::table& root_;
    Reading& reading_;
    std::vector<Design> designs_;
};

/// The tables of a design, from a fresh copy of the file's; mistakes in addresses go into `reading`.
class Maker {
public:
    Maker(toml::table& root, const std::vector<Design>& designs, Reading& reading) : root_(root), designs_(designs), reading_(reading) {}

    void make(const Design& design, std::span<const Change> more) {
        if (design.sweep.empty()) {
            change_by_variant(design.name);
        } else {
            change_by_variant(design.from);
            for (const Change& change : design.changes) apply(change, place_of_sweep(design.sweep));
        }
        for (const Change& change : more) apply(change, {});
    }

private:
    toml::table* entry(std::string_view list, const std::string& name) {
        toml::array* entries = root_[list].as_array();
        for (std::size_t i = 0; entries != nullptr && i < entries->size(); ++i) {
            toml::table* table = (*entries)[i].as_table();
            if (table != nullptr && (*table)["name"].value_or(std::string()) == name) return table;
        }
        return nullptr;
    }

    toml::source_region place_of_sweep(const std::string& name) {
        const toml::table* sweep = entry("sweep", name);
        return sweep == nullptr ? toml::source_region{} : sweep->source();
    }

    void change_by_variant(const std::string& name) {
        if (name.empty() || name == base_design) return;
        const auto design = std::find_if(designs_.begin(), designs_.end(), [&](const Design& d) { return d.name == name && d.sweep.empty(); });
        if (design == designs_.end()) return;
        change_by_variant(design->from);
        toml::table* variant = entry("variant", name);
        toml::table* changes = variant == nullptr ? nullptr : (*variant)["change"].as_table();
        if (changes == nullptr) return;
        for (const auto& [address, node] : in_order(*changes)) {
            const toml::source_region where = node->source();
            try {
                put_at(root_, address, std::move(*node));  // moved, so that mistakes in it are told where it stands
            } catch (const BadAddress& error) {
                reading_.report(where, fmt::format("{}: {}", in_quotes(address), error.what()));
            }
        }
    }

    void apply(const Change& change, const toml::source_region& where) {
        toml::table value = value_of(change.value);
        try {
            put_at(root_, change.address, std::move(*value.get("value")));
        } catch (const BadAddress& error) {
            reading_.report(where, fmt::format("{}: {}", in_quotes(change.address), error.what()));
        }
    }

    toml::table& root_;
    const std::vector<Design>& designs_;
    Reading& reading_;
};

}  // namespace

ModelFile::ModelFile(std::string text, std::string file, std::shared_ptr<CadFiles> cad)
    : text_(std::move(text)), file_(std::move(file)), cad_(cad ? std::move(cad) : std::make_shared<CadFiles>()) {
    toml::table root = parse_toml(text_, file_);
    Reading reading(file_, cad_);
    base_ = read_checked(root, reading);
    designs_ = DesignReader(root, reading).run();
    reading.throw_if_any();
    Reading again(file_, cad_);
    parameters_ = read_parameters(root, again);
}

void ModelFile::check(std::span<const Design> designs) const {
    // A mistake in one variant should not hide those in the others.
    std::vector<Problem> problems;
    for (const Design& d : designs) {
        try {
            static_cast<void>(model(d));
        } catch (const ModelError& error) {
            for (Problem problem : error.problems()) {
                problem.message = fmt::format("{} {}: {}", d.sweep.empty() ? "variant" : "sweep", in_quotes(d.name), problem.message);
                problems.push_back(std::move(problem));
            }
        }
    }
    if (!problems.empty()) throw ModelError(std::move(problems));
}

const Design& ModelFile::design(const std::string& name) const {
    if (name == base_design || name.empty()) return as_it_stands_;
    const auto found = std::find_if(designs_.begin(), designs_.end(), [&](const Design& d) { return d.name == name; });
    if (found != designs_.end()) return *found;
    std::vector<std::string> names{std::string(base_design)};
    for (const Design& d : designs_) names.push_back(d.name);
    throw Error(fmt::format("the model has no variant {}{}; it has {}", in_quotes(name), did_you_mean(name, names), quoted_list(names, 20)));
}

Model ModelFile::model(const Design& design, std::span<const Change> more) const {
    toml::table root = parse_toml(text_, file_);
    Reading reading(file_, cad_);
    Maker(root, designs_, reading).make(design, more);
    reading.throw_if_any();
    Model model = read_checked(root, reading);
    reading.throw_if_any();
    if (units_) model.units = *units_;
    return model;
}

void ModelFile::tell_in(const Units& units) {
    base_.units = units;
    units_ = units;
}

}  // namespace firnfield
