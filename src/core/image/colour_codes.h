// Code points of ITU-T H.273 that the program has to tell apart.
#pragma once

namespace yarngap::h273 {

/// Table 2.
enum Primaries : int {
    primariesBt709 = 1,
    primariesUnspecified = 2,
    primariesBt470m = 4,
    primariesBt470bg = 5,   ///< BT.601 with 625 lines
    primariesSmpte170m = 6, ///< BT.601 with 525 lines
    primariesSmpte240m = 7,
    primariesFilm = 8,
    primariesBt2020 = 9,
    primariesDciP3 = 11,
    primariesDisplayP3 = 12
};

/// Table 3.
enum Transfer : int { transferBt709 = 1, gamma22 = 4, gamma28 = 5, linear = 8, sRgb = 13, pq = 16, hlg = 18 };

} // namespace yarngap::h273
