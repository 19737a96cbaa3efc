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
/// Long runs have more rows than a chart has pixels: of each stretch the rows with the lowest and the highest of every column stay, about `most` in all.
[[nodiscard]] std::vector<std::size_t> rows_of_chart(const History& history, const std::vector<std::size_t>& columns, std::size_t most);

[[nodiscard]] std::vector<ChartLine> chart_lines(const TimeFindings& findings, const History& history);

}  // namespace firnfield
