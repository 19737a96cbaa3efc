// Names of files made from names in the model: safe on every system, readable, and no two alike.

#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

namespace firnfield {
namespace {

constexpr std::size_t longest_stem = 100;  // bytes; endings and a number have to fit behind it, and systems allow 255

/// Length of the UTF-8 character at `at`; 0 where there is none.
std::size_t character(std::string_view text, std::size_t at) {
    const auto byte = static_cast<unsigned char>(text[at]);
    const std::size_t length = byte < 0x80 ? 1 : (byte & 0xE0U) == 0xC0 ? 2 : (byte & 0xF0U) == 0xE0 ? 3 : (byte & 0xF8U) == 0xF0 ? 4 : 0;
    if (length == 0 || at + length > text.size()) return 0;
    for (std::size_t i = 1; i < length; ++i) {
        if ((static_cast<unsigned char>(text[at + i]) & 0xC0U) != 0x80) return 0;
    }
    return length;
}

/// FNV-1a, to tell long names apart that begin alike.
std::uint32_t hash_of(std::string_view text) {
    std::uint32_t hash = 2166136261U;
    for (const char c : text) hash = (hash ^ static_cast<unsigned char>(c)) * 16777619U;
    return hash;
}

std::string folded(std::string text) {
    std::transform(text.begin(), text.end(), text.begin(), [](char c) { return static_cast<char>(std::tolower(static_cast<unsigned char>(c))); });
    return text;
}

}  // namespace

std::string file_stem(std::string_view name) {
    constexpr std::string_view awkward = "/\\:*?\"<>|`$";
    std::string out;
    bool cut = false;
    for (std::size_t at = 0; at < name.size();) {
        const std::size_t length = character(name, at);
        const bool control = length == 1 && (static_cast<unsigned char>(name[at]) < 0x20 || name[at] == 0x7F);
        const std::string_view here =
            length == 0 || control || (length == 1 && awkward.find(name[at]) != std::string_view::npos) ? "-" : name.substr(at, length);
        if (out.size() + here.size() > longest_stem) {
            cut = true;
            break;
        }
        out += here;
        at += std::max<std::size_t>(length, 1);
    }
    while (!out.empty() && (out.back() == ' ' || out.back() == '.')) out.pop_back();
    out.erase(0, std::min(out.find_first_not_of(' '), out.size()));
    if (out.empty()) out = "unnamed";
    if (out.front() == '.' || out.front() == '-') out.insert(0, "_");
    return cut ? fmt::format("{} {:08x}", out, hash_of(name)) : out;
}

std::string FileNames::claim(std::string_view name, std::initializer_list<std::string_view> endings) {
    const std::string stem = file_stem(name);
    for (int number = 1;; ++number) {
        const std::string candidate = number == 1 ? stem : fmt::format("{} ({})", stem, number);
        const auto is_free = [&](std::string_view ending) { return !taken_.contains(folded(candidate + std::string(ending))); };
        if (!is_free("") || !std::all_of(endings.begin(), endings.end(), is_free)) continue;
        taken_.insert(folded(candidate));
        for (const std::string_view ending : endings) taken_.insert(folded(candidate + std::string(ending)));
        return candidate;
    }
}

std::vector<std::string> file_names(std::span<const std::string> names, std::initializer_list<std::string_view> endings) {
    FileNames all;
    std::vector<std::string> out(names.size());
    // Names that can stay as they are do so, whatever comes before them.
    for (const bool as_it_is : {true, false}) {
        for (std::size_t n = 0; n < names.size(); ++n) {
            if ((file_stem(names[n]) == names[n]) == as_it_is) out[n] = all.claim(names[n], endings);
        }
    }
    return out;
}

ResultNames::ResultNames(const Model& model) {
    std::vector<std::string> studies, shown, pictures;
    for (const Study& study : studies_of(model)) studies.push_back(study.name);
    for (const Picture& picture : pictures_of(model)) pictures.push_back(picture.name);
    const std::vector<std::string> stems = file_names(studies, {" surface", " - why"});
    FileNames all;
    for (std::size_t s = 0; s < studies.size(); ++s) studies_[studies[s]] = all.claim(stems[s], {" surface", " - why"});
    for (const std::string& study : studies) {
        for (const std::string& picture : pictures) pictures_[{study, picture}] = all.claim(fmt::format("{} - {}", studies_[study], picture), {});
    }
}

const std::string& ResultNames::study(const std::string& name) const {
    const auto found = studies_.find(name);
    if (found == studies_.end()) throw Error("the model has no study \"" + name + "\"");
    return found->second;
}

const std::string& ResultNames::picture(const std::string& study, const std::string& name) const {
    const auto found = pictures_.find({study, name});
    if (found == pictures_.end()) throw Error("the model has no picture \"" + name + "\"");
    return found->second;
}

}  // namespace firnfield
