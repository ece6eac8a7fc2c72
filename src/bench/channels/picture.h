// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

/// The picture line, version 1 (docs/formats/picture-line.md): an X-ray table sends its map row by row over a local
/// socket, between the frames of the bench line.
namespace fusain::bench {

/// What a table said.
struct PictureWord {
    enum class Kind { alive, begun, row, ended } kind = Kind::alive;
    std::uint32_t scan = 0; ///< counts up with each scan of the table
    // begun
    int rows = 0, columns = 0;
    double dx_mm = 0, dy_mm = 0;
    double dose_usv = 0; ///< effective, of a whole scan
    std::string table;   ///< id of its tissue table
    // row, ended
    int row = 0;                   ///< ended: how many were sent
    std::vector<double> low, high; ///< ln(I0/I)
};

/// What is told to a table.
inline constexpr const char *say_scan = "scan\n", *say_stop = "stop\n";

inline constexpr double picture_slope = 1.0 / 5000; ///< of a value sent
inline constexpr int most_columns = 4096, most_rows = 8192;

std::string encode(const PictureWord& word);

/// Pure decoder: bytes in, words out; whatever is not a picture's goes on to the bench line's decoder. Resynchronises
/// at the next newline after garbage; never throws.
class PictureDecoder {
public:
    /// `rest`: lines that are not of a picture, as they came.
    void feed(std::string_view bytes, std::vector<PictureWord>& out, std::string& rest);
    std::uint64_t bad_lines() const { return bad_; } ///< failed their check sum, or say what cannot be
    void restart();

private:
    void take_line(std::vector<PictureWord>& out, std::string& rest);
    std::string pending_;
    bool overlong_ = false;
    std::uint64_t bad_ = 0;
};

} // namespace fusain::bench
