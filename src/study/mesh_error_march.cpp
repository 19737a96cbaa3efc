// The error that the mesh makes, marched beside a run in time.

#include "study/mesh_error_march.hpp"

namespace firnfield {

MeshErrors::MeshErrors(const Model& model, const Mesh& mesh, const Network& network, const NodeTemperatures& nodes, const ContactReader& contacts,
                       const MeshErrors* alike)
    : patch_temperature_(patch_temperatures(mesh, network, nodes)),
      contacts_(contact_temperatures(contacts, mesh, network, nodes)),
      first_(model, mesh, network, nodes, patch_temperature_, contacts_, alike == nullptr ? nullptr : &alike->first_) {}

void MeshErrors::correct_first(std::span<const double> change) {
    first_.correct(change);
    second_.emplace(first_);
    second_->find_anew();
}

MeshErrorMarch::MeshErrorMarch(const Model& model, const Mesh& mesh, const Network& network, const ContactReader& contacts)
    : model_(model), mesh_(mesh), network_(network), contacts_(contacts) {
    for (std::vector<double>& round : content_) round.assign(network.nodes, 0.0);
    change_ = content_;
}

void MeshErrorMarch::look_at_beginning(const Integrator& integrator, const NodeTemperatures& nodes) {
    beginning_ = std::make_unique<MeshErrors>(model_, mesh_, network_, nodes, contacts_, end_.get());
    driven_[0] = beginning_->first().driven_heat();
    beginning_->correct_first(integrator.temperature_errors(content_[0]));
    driven_[1] = beginning_->second().driven_heat();
    beginning_->correct_second(integrator.temperature_errors(content_[1]));
    looked_ = true;
}

void MeshErrorMarch::advance(Integrator& integrator) {
    if (!looked_) beginning_.reset();
    looked_ = false;
    end_ = std::make_unique<MeshErrors>(model_, mesh_, network_, NodeTemperatures{integrator.reference(), integrator.rise()}, contacts_,
                                        end_ ? end_.get() : beginning_.get());
    const auto march = [&](std::size_t round, std::vector<double> driven) {
        if (driven_[round].empty()) driven_[round] = driven;
        change_[round] = integrator.march_errors(driven_[round], driven, content_[round]);
        driven_[round] = std::move(driven);
    };
    march(0, end_->first().driven_heat());
    end_->correct_first(change_[0]);
    march(1, end_->second().driven_heat());
    end_->correct_second(change_[1]);
}

}  // namespace firnfield
