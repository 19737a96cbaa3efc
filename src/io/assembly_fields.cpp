// `[[assembly]]`: a CAD file as parts of a model.

#include "io/assembly_fields.hpp"

#include <firnfield/step.hpp>

#include "io/cad_files.hpp"
#include "io/read_keys.hpp"
#include "model/keys/assembly.hpp"

namespace firnfield {

void read_assemblies(Fields& file, Model& model) {
    file.tables("assembly", false, [&](Fields& fields, std::size_t) {
        Reading& reading = fields.reading();
        const std::size_t before = reading.mistakes();
        const Assembly assembly = read_keys<Assembly>(fields);
        if (reading.mistakes() > before) return reading.leave_unchecked();
        try {
            const std::vector<Part> parts = parts_of(assembly, *reading.cad_files().read(reading.named_file(assembly.file)));
            for (const Part& part : parts) {
                reading.place(fmt::format("part[{}]", model.parts.size()), fields.where());
                model.parts.push_back(part);
            }
        } catch (const ModelError& error) {
            for (const Problem& problem : error.problems())
                reading.report_at_address({.address = fmt::format("{}.{}", fields.address(), problem.address), .message = problem.message, .location = {}});
            reading.leave_unchecked();
        } catch (const Error& error) {
            fields.report(*fields.node("file"), error.what());
            reading.leave_unchecked();
        }
    });
}

}  // namespace firnfield
