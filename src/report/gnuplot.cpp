// Scripts for gnuplot, in which texts are data.

#include "report/gnuplot.hpp"

#include <firnfield/chart.hpp>
#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <cstdio>
#include <cstdlib>
#include <system_error>

namespace firnfield {
namespace {

namespace fs = std::filesystem;

// Where a text stands in a script until it is run. No text has these characters.
constexpr char text_begins = '\x01', text_ends = '\x02';

/// The script with its texts as lines of data in front, referred to by number: as data nothing in them is a command, an escape or a variable.
std::string with_texts_as_data(const std::string& script) {
    std::string data = "$texts << END_OF_TEXTS\n", out;
    int count = 0;
    for (std::size_t at = 0; at < script.size();) {
        const std::size_t begin = script.find(text_begins, at);
        out += script.substr(at, begin - at);
        if (begin == std::string::npos) break;
        const std::size_t end = script.find(text_ends, begin);
        // A line of data that is nothing else than the end would end it: no text stands alone on its line.
        data += ' ' + script.substr(begin + 1, end - begin - 1) + '\n';
        out += fmt::format("(substr($texts[{}],2,-1))", ++count);
        at = end + 1;
    }
    return data + "END_OF_TEXTS\n" + out;
}

/// Whether a drawing was written to its end. The program tells nothing of a full disk.
bool is_whole(const fs::path& file, std::string_view end) {
    std::error_code status;
    if (!fs::exists(file, status)) return false;
    const std::string bytes = read_file(file);
    return bytes.size() >= 64 && bytes.find(end, bytes.size() - 64) != std::string::npos;
}

}  // namespace

std::string plot_text(const std::string& text) {
    std::string out(1, text_begins);
    for (const char c : text) out += static_cast<unsigned char>(c) < 0x20 || c == 0x7F ? ' ' : c;
    return out + text_ends;
}

std::string tick_text(const std::string& text) {
    std::string doubled;
    for (const char c : text) doubled.append(c == '%' ? 2 : 1, c);
    return plot_text(doubled);
}

void run_gnuplot(const fs::path& stem, const std::string& script) {
    if (!charts_possible()) throw FileError("charts need gnuplot, which is not installed (the Debian package gnuplot-nox has it)");
    struct Drawing {
        std::string ending, terminal, end;
    };
    const Drawing drawings[] = {{".png", "pngcairo size 1280,800 noenhanced font 'DejaVu Sans,11'", "IEND"},
                                {".svg", "svg size 1280,800 noenhanced font 'DejaVu Sans,14' background rgb 'white'", "</svg>"}};
    const auto part = [&](const Drawing& d) { return fs::path(stem.string() + ".part" + d.ending); };
    std::string all = "set encoding utf8\n";
    for (const Drawing& d : drawings) {
        all += fmt::format("set terminal {}\nset output {}\nreset\nset grid lc rgb '#dddddd' lt 1 lw 1\nset border 3 lc rgb '#666666'\nset tics nomirror out\n",
                           d.terminal, plot_text(part(d).string())) +
               script + "unset output\n";
    }
    FILE* pipe = ::popen("gnuplot >/dev/null 2>&1", "w");
    if (pipe == nullptr) throw FileError("gnuplot could not be started");
    all = with_texts_as_data(all);
    const bool sent = std::fwrite(all.data(), 1, all.size(), pipe) == all.size();
    const bool drawn = ::pclose(pipe) == 0 && sent;
    for (const Drawing& d : drawings) {
        std::error_code status;
        const fs::path target = stem.string() + d.ending;
        if (drawn && is_whole(part(d), d.end)) {
            fs::rename(part(d), target, status);
            if (!status) continue;
        }
        for (const Drawing& other : drawings) fs::remove(part(other), status);
        throw WriteError(fmt::format("the chart {} could not be written: is the folder there, writable and not full?", in_quotes(target.string())));
    }
}

bool charts_possible() {
    static const bool possible = std::system("command -v gnuplot >/dev/null 2>&1") == 0;
    return possible;
}

}  // namespace firnfield
