// Text of users inside of other formats, where it has to stay text.

#include <firnfield/results.hpp>

#include <algorithm>

namespace firnfield {
namespace {

/// What a spreadsheet would take for a formula.
bool looks_like_formula(std::string_view text) { return !text.empty() && std::string_view("=+-@").find(text.front()) != std::string_view::npos; }

/// Whether a text would act as a formula, or would be taken for one that was marked, because it begins with apostrophes of its own.
bool needs_apostrophe(std::string_view text) {
    text.remove_prefix(std::min(text.find_first_not_of('\''), text.size()));
    return looks_like_formula(text);
}

}  // namespace

std::string xml_text(std::string_view text) {
    std::string out;
    for (const char c : text) {
        switch (c) {
            case '&':
                out += "&amp;";
                break;
            case '<':
                out += "&lt;";
                break;
            case '>':
                out += "&gt;";
                break;
            case '"':
                out += "&quot;";
                break;
            default:
                out += c;
        }
    }
    return out;
}

std::string csv_cell(std::string text) {
    std::replace_if(
        text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7F; }, ' ');
    if (needs_apostrophe(text)) text.insert(0, 1, '\'');
    if (text.find_first_of(",;\"") == std::string::npos) return text;
    std::string quoted = "\"";
    for (const char c : text) quoted += c == '"' ? "\"\"" : std::string(1, c);
    return quoted + "\"";
}

std::string text_of_csv_cell(std::string cell) {
    if (cell.starts_with('\'') && needs_apostrophe(std::string_view(cell).substr(1))) cell.erase(0, 1);
    return cell;
}

}  // namespace firnfield
