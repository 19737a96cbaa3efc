// Histories as CSV, and checkpoints of runs in time.

#include <firnfield/error.hpp>
#include <firnfield/results.hpp>

#include "base/words.hpp"
#include "io/csv.hpp"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include <charconv>
#include <cstring>
#include <sstream>
#include <utility>

namespace firnfield {
namespace {

using Json = nlohmann::json;

// Everything of a checkpoint as one CBOR value; vectors of numbers as bytes, so that they come back exactly and fast.

Json bytes_of(const std::vector<double>& values) {
    std::vector<std::uint8_t> bytes(values.size() * sizeof(double));
    if (!bytes.empty()) std::memcpy(bytes.data(), values.data(), bytes.size());
    return Json::binary(std::move(bytes));
}

std::vector<double> numbers_of(const Json& json) {
    const auto& bytes = json.get_binary();
    std::vector<double> values(bytes.size() / sizeof(double));
    if (!values.empty()) std::memcpy(values.data(), bytes.data(), values.size() * sizeof(double));
    return values;
}

Json flows_json(const HeatFlows& f) { return {bytes_of(f.loads), bytes_of(f.convection), bytes_of(f.radiation), bytes_of(f.holds), bytes_of(f.resistors)}; }
HeatFlows flows_of(const Json& j) {
    return {numbers_of(j.at(0)), numbers_of(j.at(1)), numbers_of(j.at(2)), numbers_of(j.at(3)), j.size() > 4 ? numbers_of(j.at(4)) : std::vector<double>()};
}

Json moment_json(const Moment& m) { return {bytes_of({m.time, m.spot.temperature, m.spot.at.x, m.spot.at.y, m.spot.at.z}), m.spot.body}; }
Moment moment_of(const Json& j) {
    const std::vector<double> n = numbers_of(j.at(0));
    return {.spot = {n.at(1), {n.at(2), n.at(3), n.at(4)}, j.at(1).get<std::string>()}, .time = n.at(0)};
}

Json state_json(const TransientState& s) {
    Json switchings = Json::array();
    for (const Switching& w : s.switchings) switchings.push_back({bytes_of({w.time}), w.thermostat, w.on});
    std::vector<double> drifts;
    for (const ReadingDrift& d : s.drifts) drifts.insert(drifts.end(), {d.time, d.added, d.rate});
    const TransientSummary& t = s.summary;
    return {{"numbers", bytes_of({s.time, s.next_length, s.reference, s.ledger.stored, s.ledger.throughput, t.smallest_step, t.largest_step,
                                  s.remaining_change.value_or(-1.0), t.network_seconds, t.solve_seconds})},
            {"rise", bytes_of(s.rise)},
            {"rate", bytes_of(s.rate)},
            {"errors", {bytes_of(s.errors[0]), bytes_of(s.errors[1])}},
            {"on", s.on},
            {"flows", flows_json(s.flows)},
            {"since", bytes_of(s.since)},
            {"drifts", bytes_of(drifts)},
            {"switchings", switchings},
            {"moved", flows_json(s.ledger.moved)},
            {"counts", {t.steps, t.rejected, t.solves, t.linear_iterations, t.factorisations}}};
}

TransientState state_of(const Json& j) {
    TransientState s;
    const std::vector<double> n = numbers_of(j.at("numbers"));
    s.time = n.at(0);
    s.next_length = n.at(1);
    s.reference = n.at(2);
    s.ledger = {.moved = flows_of(j.at("moved")), .stored = n.at(3), .throughput = n.at(4)};
    s.summary.smallest_step = n.at(5);
    s.summary.largest_step = n.at(6);
    if (n.at(7) >= 0.0) s.remaining_change = n.at(7);
    s.summary.network_seconds = n.at(8);
    s.summary.solve_seconds = n.at(9);
    s.rise = numbers_of(j.at("rise"));
    s.rate = numbers_of(j.at("rate"));
    for (std::size_t round = 0; round < s.errors.size(); ++round) s.errors[round] = numbers_of(j.at("errors").at(round));
    s.flows = flows_of(j.at("flows"));
    s.on = j.at("on").get<std::vector<bool>>();
    s.since = numbers_of(j.at("since"));
    const std::vector<double> drifts = numbers_of(j.at("drifts"));
    for (std::size_t i = 0; i + 2 < drifts.size(); i += 3) s.drifts.push_back({drifts[i], drifts[i + 1], drifts[i + 2]});
    for (const Json& w : j.at("switchings")) s.switchings.push_back({numbers_of(w.at(0)).at(0), w.at(1).get<Index>(), w.at(2).get<bool>()});
    const auto counts = j.at("counts").get<std::vector<long long>>();
    s.summary.steps = counts.at(0);
    s.summary.rejected = counts.at(1);
    s.summary.solves = counts.at(2);
    s.summary.linear_iterations = counts.at(3);
    s.summary.factorisations = counts.at(4);
    return s;
}

std::vector<double> plain(std::initializer_list<ReadingError> errors) {
    std::vector<double> out;
    for (const ReadingError& e : errors) out.insert(out.end(), {e.added, e.open});
    return out;
}
ReadingError error_at(const std::vector<double>& plain, std::size_t which) { return {plain.at(2 * which), plain.at(2 * which + 1)}; }

Json record_json(const TimeRecord& r) {
    Json limits = Json::array(), parts = Json::array(), sensors = Json::array(), figures = Json::array(), rows = Json::array();
    for (const TimeRecord::LimitTrack& t : r.limits) {
        std::vector<double> beyond;
        for (const Interval& i : t.beyond) beyond.insert(beyond.end(), {i.from, i.to});
        std::vector<double> errors = plain({t.worst_error, t.since_error});
        for (const auto& [from, to] : t.beyond_errors) errors.insert(errors.end(), {from.added, from.open, to.added, to.open});
        limits.push_back(
            {t.started, t.was_beyond, t.started_beyond, t.judged, bytes_of({t.beyond_since}), bytes_of(beyond), moment_json(t.worst), bytes_of(errors)});
    }
    for (const TimeRecord::PartTrack& t : r.parts)
        parts.push_back({moment_json(t.coldest), moment_json(t.hottest), bytes_of({t.integral, t.melted_most, t.melted_last}),
                         bytes_of(plain({t.coldest_error, t.hottest_error, t.integral_error}))});
    for (const TimeRecord::SensorTrack& t : r.sensors)
        sensors.push_back(bytes_of({t.lowest, t.highest, t.lowest_time, t.highest_time, t.integral, t.highest_error.added, t.highest_error.open}));
    for (const TimeRecord::FigureTrack& t : r.figures) {
        std::vector<double> numbers{t.lowest, t.highest, t.lowest_time, t.highest_time, t.integral, t.length};
        const std::vector<double> errors = plain({t.lowest_error, t.highest_error, t.integral_error});
        numbers.insert(numbers.end(), errors.begin(), errors.end());
        figures.push_back({t.known, bytes_of(numbers)});
    }
    for (const std::vector<double>& row : r.history.rows) rows.push_back(bytes_of(row));
    Json thermostats = Json::array();
    for (const TimeRecord::ThermostatTrack& t : r.thermostats) {
        std::vector<double> numbers{t.energy, t.on_time, t.rate};
        for (const TimeRecord::SwitchTrack& s : t.switches) numbers.insert(numbers.end(), {s.time, s.open});
        thermostats.push_back({t.was_on, bytes_of(numbers)});
    }
    std::vector<double> now;
    for (const ReadingError& e : r.now) now.insert(now.end(), {e.added, e.open});
    return {{"started", r.started},
            {"jumped", r.jumped},
            {"errors", r.errors ? Json(*r.errors) : Json()},
            {"now", bytes_of(now)},
            {"heated", r.heated},
            {"cooled", r.cooled},
            {"numbers", bytes_of({r.time, r.next_row, r.lowest_known, r.highest_known})},
            {"limits", limits},
            {"parts", parts},
            {"sensors", sensors},
            {"figures", figures},
            {"thermostats", thermostats},
            {"columns", r.history.columns},
            {"time", bytes_of(r.history.time)},
            {"rows", rows}};
}

TimeRecord record_of(const Json& j) {
    TimeRecord r;
    r.started = j.at("started").get<bool>();
    r.jumped = j.at("jumped").get<bool>();
    const std::vector<double> n = numbers_of(j.at("numbers"));
    r.time = n.at(0);
    r.next_row = n.at(1);
    r.lowest_known = n.at(2);
    r.highest_known = n.at(3);
    if (!j.at("errors").is_null()) r.errors = j.at("errors").get<bool>();
    r.heated = j.at("heated").get<bool>();
    r.cooled = j.at("cooled").get<bool>();
    const std::vector<double> now = numbers_of(j.at("now"));
    for (std::size_t i = 0; i < now.size() / 2; ++i) r.now.push_back(error_at(now, i));
    for (const Json& t : j.at("limits")) {
        TimeRecord::LimitTrack track{.started = t.at(0).get<bool>(),
                                     .was_beyond = t.at(1).get<bool>(),
                                     .started_beyond = t.at(2).get<bool>(),
                                     .beyond_since = numbers_of(t.at(4)).at(0),
                                     .beyond = {},
                                     .worst = moment_of(t.at(6)),
                                     .judged = t.at(3).get<bool>()};
        const std::vector<double> beyond = numbers_of(t.at(5));
        for (std::size_t i = 0; i + 1 < beyond.size(); i += 2) track.beyond.push_back({beyond[i], beyond[i + 1]});
        const std::vector<double> errors = numbers_of(t.at(7));
        track.worst_error = error_at(errors, 0);
        track.since_error = error_at(errors, 1);
        for (std::size_t i = 0; 4 * i + 7 < errors.size(); ++i) track.beyond_errors.push_back({error_at(errors, 2 + 2 * i), error_at(errors, 3 + 2 * i)});
        r.limits.push_back(std::move(track));
    }
    for (const Json& t : j.at("parts")) {
        const std::vector<double> values = numbers_of(t.at(2));
        const std::vector<double> errors = numbers_of(t.at(3));
        r.parts.push_back(
            {moment_of(t.at(0)), moment_of(t.at(1)), values.at(0), values.at(1), values.at(2), error_at(errors, 0), error_at(errors, 1), error_at(errors, 2)});
    }
    for (const Json& t : j.at("sensors")) {
        const std::vector<double> v = numbers_of(t);
        r.sensors.push_back({v.at(0), v.at(1), v.at(2), v.at(3), v.at(4), {v.at(5), v.at(6)}});
    }
    for (const Json& t : j.at("figures")) {
        const std::vector<double> v = numbers_of(t.at(1));
        const std::vector<double> errors(v.begin() + std::min<std::ptrdiff_t>(6, std::ssize(v)), v.end());
        r.figures.push_back(
            {t.at(0).get<bool>(), v.at(0), v.at(1), v.at(2), v.at(3), v.at(4), v.at(5), error_at(errors, 0), error_at(errors, 1), error_at(errors, 2)});
    }
    for (const Json& t : j.at("thermostats")) {
        const std::vector<double> v = numbers_of(t.at(1));
        TimeRecord::ThermostatTrack track{.energy = v.at(0), .on_time = v.at(1), .was_on = t.at(0).get<bool>(), .rate = v.at(2)};
        for (std::size_t i = 3; i + 1 < v.size(); i += 2) track.switches.push_back({v[i], v[i + 1]});
        r.thermostats.push_back(std::move(track));
    }
    r.history.columns = j.at("columns").get<std::vector<std::string>>();
    r.history.time = numbers_of(j.at("time"));
    for (const Json& row : j.at("rows")) r.history.rows.push_back(numbers_of(row));
    return r;
}

/// Follows a file without keeping it, and stops where values lie too deep in each other: reading takes a stretch of stack for every level.
struct Shallow : nlohmann::json_sax<Json> {
    std::string problem = "it breaks off";
    int depth = 0;

    bool enter() {
        constexpr int deepest = 32;
        if (++depth <= deepest) return true;
        problem = "values lie too deep in each other";
        return false;
    }
    bool leave() { return --depth >= 0; }
    bool null() override { return true; }
    bool boolean(bool) override { return true; }
    bool number_integer(number_integer_t) override { return true; }
    bool number_unsigned(number_unsigned_t) override { return true; }
    bool number_float(number_float_t, const string_t&) override { return true; }
    bool string(string_t&) override { return true; }
    bool binary(binary_t&) override { return true; }
    bool start_object(std::size_t) override { return enter(); }
    bool key(string_t&) override { return true; }
    bool end_object() override { return leave(); }
    bool start_array(std::size_t) override { return enter(); }
    bool end_array() override { return leave(); }
    bool parse_error(std::size_t, const std::string&, const nlohmann::json::exception& error) override {
        problem = error.what();
        return false;
    }
};

/// "lid max (degC)" in its two pieces; the second is empty where there is none.
std::pair<std::string, std::string> name_and_unit(const std::string& column) {
    const std::size_t open = column.rfind(" (");
    if (open == std::string::npos || !column.ends_with(')')) return {column, {}};
    return {column.substr(0, open), column.substr(open + 2, column.size() - open - 3)};
}

}  // namespace

std::string history_csv(const History& history, const Units& units) {
    std::string out = "time (s)";
    std::vector<std::optional<Told>> told;  // of columns that stand in a unit of the reader
    for (const std::string& column : history.columns) {
        auto [name, unit] = name_and_unit(column);
        Told in_units = told_by_machine_unit(unit, units);
        const bool other = in_units.kind != nullptr && in_units.unit.name != unit;
        out += "," + csv_cell(other ? fmt::format("{} ({})", name, in_units.unit.name) : column);
        told.push_back(other ? std::optional(std::move(in_units)) : std::nullopt);
    }
    out += "\n";
    for (std::size_t r = 0; r < history.rows.size(); ++r) {
        out += fmt::format("{}", history.time[r]);
        for (std::size_t c = 0; c < told.size(); ++c) out += fmt::format(",{}", told[c] ? told[c]->out(history.rows[r][c]) : history.rows[r][c]);
        out += "\n";
    }
    return out;
}

History read_history(const std::filesystem::path& file, const Units& units) {
    std::istringstream stream(read_file(file));
    std::string line;
    if (!std::getline(stream, line)) throw FileError(fmt::format("{} is empty", in_quotes(file.string())));
    History out;
    auto columns = csv_cells(line, ',');
    if (!columns) throw FileError(fmt::format("{} breaks off", in_quotes(file.string())));
    out.columns = *std::move(columns);
    out.columns.erase(out.columns.begin());  // the time
    std::vector<std::optional<Told>> told;
    for (std::string& column : out.columns) {
        column = text_of_csv_cell(std::move(column));
        auto [name, unit] = name_and_unit(column);
        Told in_units = told_by_name(unit, units);
        const bool other = in_units.kind != nullptr && in_units.kind->unit != unit;
        if (other) column = fmt::format("{} ({})", name, in_units.kind->unit);
        told.push_back(other ? std::optional(std::move(in_units)) : std::nullopt);
    }
    while (std::getline(stream, line)) {
        std::vector<double> row;
        const char* at = line.data();
        const char* const end = line.data() + line.size();
        while (at < end) {
            double value = 0.0;
            const auto [next, status] = std::from_chars(at, end, value);
            if (status != std::errc()) break;
            row.push_back(value);
            at = next + 1;
        }
        if (row.size() != out.columns.size() + 1) throw FileError(fmt::format("{} breaks off", in_quotes(file.string())));
        for (std::size_t c = 0; c < told.size(); ++c) {
            if (told[c]) row[c + 1] = told[c]->in(row[c + 1]);
        }
        out.time.push_back(row.front());
        out.rows.emplace_back(row.begin() + 1, row.end());
    }
    return out;
}

std::string write_checkpoint(const Checkpoint& c) {
    const std::vector<std::uint8_t> bytes = Json::to_cbor(
        {{"firnfield checkpoint", 5}, {"fingerprint", c.fingerprint}, {"study", c.study}, {"state", state_json(c.state)}, {"record", record_json(c.record)}});
    return {bytes.begin(), bytes.end()};
}

Checkpoint read_checkpoint(const std::filesystem::path& file) {
    const std::string bytes = read_file(file);
    try {
        Shallow shallow;
        if (!Json::sax_parse(bytes, &shallow, Json::input_format_t::cbor)) throw std::runtime_error(shallow.problem);
        const Json json = Json::from_cbor(bytes);
        if (json.at("firnfield checkpoint") != 5) throw FileError(fmt::format("{} was written by another version", in_quotes(file.string())));
        return {json.at("fingerprint").get<std::string>(), json.at("study").get<std::string>(), state_of(json.at("state")), record_of(json.at("record"))};
    } catch (const std::exception& error) {
        if (dynamic_cast<const Error*>(&error) != nullptr) throw;
        throw FileError(fmt::format("{} is not a checkpoint: {}", in_quotes(file.string()), error.what()));
    }
}

}  // namespace firnfield
