#include "report/gnuplot.hpp"

#include <firnfield/chart.hpp>
#include <firnfield/error.hpp>

#include "base/words.hpp"

#include <fmt/format.h>

#include <cstdio>
#include <cstdlib>

namespace firnfield {

std::string plot_text(const std::string& text) {
    std::string out = "\"";
    for (const char c : text) {
        if (c == '"' || c == '\\') out += '\\';
        out += c == '\n' ? ' ' : c;
    }
    return out + "\"";
}

void run_gnuplot(const std::filesystem::path& stem, const std::string& script) {
    if (!charts_possible()) throw FileError("charts need gnuplot, which is not installed (the Debian package gnuplot-nox has it)");
    std::string all = "set encoding utf8\n";
    for (const bool svg : {false, true}) {
        all += svg ? "set terminal svg size 1280,800 noenhanced font \"DejaVu Sans,14\" background rgb \"white\"\n" : "set terminal pngcairo size 1280,800 noenhanced font \"DejaVu Sans,11\"\n";
        all += fmt::format("set output {}\nreset\nset grid lc rgb \"#dddddd\" lt 1 lw 1\nset border 3 lc rgb \"#666666\"\nset tics nomirror out\n", plot_text(stem.string() + (svg ? ".svg" : ".png"))) + script + "unset output\n";
    }
    FILE* pipe = ::popen("gnuplot >/dev/null 2>&1", "w");
    if (pipe == nullptr) throw FileError("gnuplot could not be started");
    std::fwrite(all.data(), 1, all.size(), pipe);
    if (::pclose(pipe) != 0) throw FileError(fmt::format("gnuplot could not draw {}", in_quotes(stem.string() + ".svg")));
}

bool charts_possible() {
    static const bool possible = std::system("command -v gnuplot >/dev/null 2>&1") == 0;
    return possible;
}

}  // namespace firnfield
