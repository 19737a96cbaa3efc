// The page's template filled strictly: what it names has to be there.

#include "report/page_template.hpp"

#include <kainjow/mustache.hpp>
#include <nlohmann/json.hpp>

#include <stdexcept>
#include <string_view>
#include <vector>

namespace firnfield {
namespace {

using Json = nlohmann::ordered_json;
using kainjow::mustache::data;

data to_data(const Json& json) {
    if (json.is_object()) {
        data out{data::type::object};
        for (const auto& [key, value] : json.items()) out.set(key, to_data(value));
        return out;
    }
    if (json.is_array()) {
        data out{data::type::list};
        for (const Json& item : json) out.push_back(to_data(item));
        return out;
    }
    if (json.is_boolean()) return data{json.get<bool>()};
    return data{json.is_string() ? json.get<std::string>() : json.dump()};
}

/// Follows the tags of a template through the data.
class Check {
public:
    explicit Check(const std::string& page) : page_(page) {}

    void run(const Json& values) {
        contexts_ = {&values};
        std::size_t at = 0;
        walk(at, {});
    }

private:
    const Json& find(const std::string& name) const {
        for (auto context = contexts_.rbegin(); context != contexts_.rend(); ++context) {
            if ((*context)->is_object() && (*context)->contains(name)) return (*context)->at(name);
        }
        throw std::logic_error("the template names \"" + name + "\", which the data do not have");
    }

    /// From `at` to the end of the section `until`, which is where it leaves `at`.
    void walk(std::size_t& at, const std::string& until) {
        while ((at = page_.find("{{", at)) != std::string::npos) {
            const bool raw = page_.compare(at, 3, "{{{") == 0;
            const std::size_t open = at + (raw ? 3 : 2), close = page_.find("}}", open);
            std::string name = page_.substr(open, close - open);
            at = close + (raw ? 3 : 2);
            if (name == "/" + until) return;
            const char sign = name.front();
            if (sign != '#' && sign != '^') {
                static_cast<void>(find(name));
                continue;
            }
            name.erase(0, 1);
            const Json& value = find(name);
            const std::size_t begin = at;
            const std::size_t end = page_.find("{{/" + name + "}}", begin);
            if (end == std::string::npos) throw std::logic_error("the section \"" + name + "\" of the template has no end");
            if (sign == '#' && value.is_array()) {
                for (const Json& item : value) {
                    contexts_.push_back(&item);
                    at = begin;
                    walk(at, name);
                    contexts_.pop_back();
                }
            } else if (sign == '#' && value.is_boolean() && value.get<bool>()) {
                walk(at, name);
            }
            at = end + name.size() + 5;
        }
        at = page_.size();
    }

    const std::string& page_;
    std::vector<const Json*> contexts_;
};

}  // namespace

std::string render_strictly(const std::string& page, const Json& data) {
    Check(page).run(data);
    kainjow::mustache::mustache compiled(page);
    if (!compiled.is_valid()) throw std::logic_error(compiled.error_message());
    return compiled.render(to_data(data));
}

extern const std::string_view page_js_text, page_css_text, uplot_css_text, page_mustache_text, model_mustache_text;

std::string report_template() { return std::string(page_mustache_text); }
std::string model_template() { return std::string(model_mustache_text); }
std::string page_style() { return std::string(uplot_css_text) += page_css_text; }
std::string page_script() { return std::string(page_js_text); }

std::string for_script(const std::string& json) {
    std::string out;
    for (const char c : json) out += c == '<' ? "\\u003c" : std::string(1, c);
    return out;
}

nlohmann::ordered_json table_json(const FindingTable& table) {
    Json out{{"title", table.title}, {"columns", Json::array()}, {"rows", Json::array()}, {"notes", Json::array()}};
    for (const FindingTable::Column& c : table.columns) out["columns"].push_back({{"head", c.head}, {"cell_class", c.right ? "n" : ""}});
    for (std::size_t r = 0; r < table.rows.size(); ++r) {
        const bool judged = !table.kept.empty();
        Json row{{"row_class", !judged ? "" : table.kept[r] ? "kept" : "missed"}, {"cells", Json::array()}};
        for (std::size_t c = 0; c < table.columns.size(); ++c) {
            const bool mark = judged && table.columns[c].head.empty();
            const std::string text = !mark ? table.rows[r][c] : table.kept[r] ? "✓\u00a0kept" : "✗\u00a0missed";
            row["cells"].push_back({{"text", text}, {"cell_class", table.columns[c].right ? "n" : ""}});
        }
        out["rows"].push_back(std::move(row));
    }
    for (const std::string& note : table.notes) out["notes"].push_back({{"text", note}});
    return out;
}

}  // namespace firnfield
