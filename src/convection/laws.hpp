/// The correlations themselves: Nusselt numbers from Rayleigh, Reynolds and Prandtl numbers.
#pragma once

namespace firnfield::correlations {

/// Vertical plate, all Rayleigh numbers. S. W. Churchill and H. H. S. Chu, Int. J. Heat Mass Transfer 18 (1975) 1323.
[[nodiscard]] double vertical_plate(double rayleigh, double prandtl);
/// The same authors' form for laminar flow, Ra <= 1e9.
[[nodiscard]] double vertical_plate_laminar(double rayleigh, double prandtl);
/// Horizontal plate from which the warm fluid can rise (or the cold one sink): the larger of the laminar and the turbulent branch.
/// J. R. Lloyd and W. R. Moran, J. Heat Transfer 96 (1974) 443; W. H. McAdams, Heat Transmission (1954).
[[nodiscard]] double horizontal_free(double rayleigh);
/// Horizontal plate that holds the warm fluid below it (or the cold one above it). McAdams (1954).
[[nodiscard]] double horizontal_covered(double rayleigh);
/// Horizontal cylinder. Churchill and Chu, Int. J. Heat Mass Transfer 18 (1975) 1049.
[[nodiscard]] double horizontal_cylinder(double rayleigh, double prandtl);
/// Sphere. S. W. Churchill, in Heat Exchanger Design Handbook (1983).
[[nodiscard]] double sphere_natural(double rayleigh, double prandtl);
/// Isothermal parallel plates, by the spacing; `channel` is Ra_S·S/L. A. Bar-Cohen and W. M. Rohsenow, J. Heat Transfer 106 (1984) 116.
[[nodiscard]] double parallel_plates(double channel);
/// Parallel plates with the same uniform heat flux, by the spacing and the difference at half height; `channel` is Ra*_S·S/L with the flux q S/k in
/// place of the difference. The same authors.
[[nodiscard]] double parallel_plates_uniform_flux(double channel);
/// The same by W. Elenbaas, Physica 9 (1942) 1.
[[nodiscard]] double parallel_plates_elenbaas(double channel);
/// Flat plate along the flow, mean; transition at Re = 5e5. Pohlhausen's laminar and the mixed turbulent form.
[[nodiscard]] double flat_plate(double reynolds, double prandtl);
/// Cylinder in cross flow. S. W. Churchill and M. Bernstein, J. Heat Transfer 99 (1977) 300.
[[nodiscard]] double cylinder_cross_flow(double reynolds, double prandtl);
/// Tubes in line or staggered, by the velocity between them; `ratio` is the pitch across over the pitch along the flow. Twenty rows or more.
/// A. Zukauskas, Adv. Heat Transfer 8 (1972) 93, equal Prandtl numbers at wall and fluid.
[[nodiscard]] double tube_bank(double reynolds, double prandtl, bool staggered, double ratio);
/// Closed vertical gap, by its width; `slenderness` is height over width. S. M. ElSherbiny, G. D. Raithby and K. G. T. Hollands,
/// J. Heat Transfer 104 (1982) 96.
[[nodiscard]] double vertical_gap(double rayleigh, double slenderness);
/// Closed horizontal gap heated from below, by its width. K. G. T. Hollands, T. E. Unny, G. D. Raithby and L. Konicek,
/// J. Heat Transfer 98 (1976) 189, inclination zero.
[[nodiscard]] double horizontal_gap(double rayleigh);
/// Sphere in a stream. S. Whitaker, AIChE J. 18 (1972) 361, equal viscosities.
[[nodiscard]] double sphere_forced(double reynolds, double prandtl);
/// Smooth-tube friction factor (Darcy). B. S. Petukhov (1970).
[[nodiscard]] double smooth_friction(double reynolds);
/// Turbulent flow in ducts. V. Gnielinski, Int. Chem. Eng. 16 (1976) 359.
[[nodiscard]] double duct_turbulent(double reynolds, double prandtl);
/// Developing laminar flow in a tube, mean; `graetz` is Re·Pr·D/L. H. Hausen (1943).
[[nodiscard]] double duct_laminar(double graetz);

}  // namespace firnfield::correlations
