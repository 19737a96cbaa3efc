/// Which temperatures a chart over time shows: the same in files and on pages.
#pragma once

#include <firnfield/history.hpp>

#include <string>
#include <vector>

namespace firnfield {

struct ChartLine {
    std::string name{};     ///< "lid, hottest", "sensor nose"
    std::string subject{};  ///< as limits name it
    std::size_t column = 0;
};
[[nodiscard]] std::vector<ChartLine> chart_lines(const TimeFindings& findings, const History& history);

}  // namespace firnfield
