/// Addresses of values in a model file, as variants, sweeps and `--set` have them: "joint.amplifier pad.layer.thickness".
#pragma once

#include <firnfield/error.hpp>

#include "io/toml_fields.hpp"

#include <string>
#include <vector>

namespace firnfield {

/// An address that leads nowhere.
class BadAddress : public Error {
public:
    using Error::Error;
};

[[nodiscard]] std::vector<std::string> keys_of(const toml::table& table);

/// Puts `value` at an address of the whole file. Throws BadAddress.
void put_at(toml::table& root, const std::string& address, toml::node&& value);

/// A value as a model file has it, or a text without its quotes. Keeps the node alive in a table.
[[nodiscard]] toml::table value_of(const std::string& text);

}  // namespace firnfield
