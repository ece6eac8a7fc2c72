// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/files/scan_file.h"

#include "core/base/limits.h"

#include "bench/base/json.h"

#include <dcmtk/config/osconfig.h>
#include <dcmtk/dcmdata/dctk.h>
#include <dcmtk/dcmdata/dcistrmb.h>
#include <dcmtk/dcmdata/dcostrmb.h>
#include <dcmtk/oflog/oflog.h>

#include <cmath>

namespace fusain::bench {
namespace {

using Json = nlohmann::ordered_json;

constexpr double steps_per_unit = 5000; ///< of ln(I0/I) in a file of ours: 0.0002
constexpr double lowest_written = -1;
constexpr Uint16 largest_side = 4096;
constexpr double finest_mm = 0.5, coarsest_mm = 25;
constexpr std::size_t most_bytes = 512u << 20;
constexpr Uint32 longest_text = 1024;

Message error(const char* code, std::string field, std::string text)
{
    return {code, Level::error, std::move(field), std::move(text)};
}

/// A tag as messages name it.
std::string name_of(const DcmTagKey& key)
{
    DcmTag tag(key);
    const char* word = tag.getTagName();
    return std::string(word ? word : "tag") + " " + key.toString().c_str();
}

/// Only printable ASCII of what stands in a file.
std::string shown(const std::string& text)
{
    std::string out;
    for (char c : text.substr(0, 60)) out += c >= 0x20 && c < 0x7f ? c : '?';
    return out;
}

/// Reads tags one by one; the first that is wrong is kept.
class Tags {
public:
    Tags(DcmDataset& set, std::string file) : set_(set), file_(std::move(file)) {}

    Uint16 number(const DcmTagKey& key)
    {
        Uint16 value = 0;
        if (set_.findAndGetUint16(key, value).bad()) missing(key);
        return value;
    }
    std::string text(const DcmTagKey& key, bool needed = true)
    {
        OFString value;
        DcmElement* element = nullptr;
        // a hostile file may call anything a text, of any length
        const bool there = set_.findAndGetElement(key, element).good() && element->getLength() <= longest_text;
        if (!there || element->getOFStringArray(value).bad() || value.empty()) {
            if (needed) missing(key);
            return {};
        }
        return {value.c_str(), value.size()};
    }
    /// One of a list of decimal numbers.
    double decimal(const DcmTagKey& key, unsigned long at)
    {
        Float64 value = NAN;
        if (set_.findAndGetFloat64(key, value, at).bad()) {
            if (set_.tagExists(key))
                wrong(key, text(key, false), "numbers");
            else
                missing(key);
        }
        return value;
    }
    void must_be(const DcmTagKey& key, unsigned value, unsigned allowed)
    {
        if (!bad && value != allowed) wrong(key, std::to_string(value), std::to_string(allowed));
    }
    void wrong(const DcmTagKey& key, const std::string& value, const std::string& allowed)
    {
        if (!bad)
            bad = error("wrong_tag", name_of(key),
                file_ + ": " + name_of(key) + " is " + shown(value) + "; allowed is " + allowed + ".");
    }
    void missing(const DcmTagKey& key)
    {
        if (!bad) bad = error("missing_tag", name_of(key), file_ + ": " + name_of(key) + " is missing.");
    }
    std::optional<Message> bad;

private:
    DcmDataset& set_;
    std::string file_;
};

void be_quiet()
{
    static const bool once = [] {
        OFLog::configure(OFLogger::OFF_LOG_LEVEL);
        return true;
    }();
    (void)once;
}

std::optional<Message> encoding(const DcmDataset& set, const std::string& file)
{
    const DcmXfer how(set.getOriginalXfer());
    if (how.getXfer() == EXS_LittleEndianImplicit || how.getXfer() == EXS_LittleEndianExplicit) return std::nullopt;
    return error("compressed", "TransferSyntaxUID (0002,0010)",
        file + ": TransferSyntaxUID (0002,0010) is " + how.getXferName() +
            "; allowed is uncompressed little endian, implicit or explicit.");
}

xray::Attenuation attenuation(const Json& j, const std::string& path, Messages& bad)
{
    xray::Attenuation out;
    for (const auto& [name, value] : {std::pair{"fat", &out.fat}, {"lean", &out.lean}, {"bone", &out.bone}}) {
        if (!j.is_object() || !j.contains(name) || !j[name].is_number())
            bad.push_back(error("missing_field", path + name, path + name + " must be a number (cm²/g)."));
        else
            *value = j[name].get<double>();
    }
    return out;
}

std::optional<Json> parsed(const std::string& text, const std::string& file, Messages& bad)
{
    Json j = Json::parse(text, nullptr, false);
    if (!j.is_discarded() && j.is_object()) return j;
    bad.push_back(error("not_json", "", file + " is not a JSON object."));
    return std::nullopt;
}

} // namespace

Outcome<ScanFile> read_scan(const std::string& bytes, const std::string& file)
{
    be_quiet();
    const auto refuse = [](Message m) { return Outcome<ScanFile>::refuse(std::move(m)); };
    if (!dcmDataDict.isDictionaryLoaded())
        return refuse(error("no_dictionary", "",
            "The dictionary of DICOM tags is not found: it comes with libdcmtk17; is DCMDICTPATH set to another "
            "place?"));
    if (bytes.size() < 132 || bytes.compare(128, 4, "DICM") != 0)
        return refuse(error("not_dicom", "", file + " is not a DICOM file: it does not begin as one does."));
    if (bytes.size() > most_bytes)
        return refuse(error("not_dicom", "", file + " is larger than 512 MiB; a map of a body is a few."));
    DcmInputBufferStream stream;
    stream.setBuffer(bytes.data(), static_cast<offile_off_t>(bytes.size()));
    stream.setEos();
    DcmFileFormat format;
    format.transferInit();
    const OFCondition read = format.read(stream, EXS_Unknown, EGL_noChange, static_cast<Uint32>(bytes.size()));
    format.transferEnd();
    DcmDataset& set = *format.getDataset();
    OFString kind;
    if (format.getMetaInfo()->findAndGetOFString(DCM_MediaStorageSOPClassUID, kind).bad())
        set.findAndGetOFString(DCM_SOPClassUID, kind);
    if (kind != UID_MultiframeGrayscaleWordSecondaryCaptureImageStorage)
        return refuse(error("other_kind", "SOPClassUID (0008,0016)",
            file + ": SOPClassUID (0008,0016) is " + shown(kind.c_str()) +
                "; allowed is a Multi-frame Grayscale Word Secondary Capture (" +
                UID_MultiframeGrayscaleWordSecondaryCaptureImageStorage + ")."));
    if (const auto why = encoding(set, file)) return refuse(*why);

    Tags tags(set, file);
    const Uint16 rows = tags.number(DCM_Rows), columns = tags.number(DCM_Columns);
    tags.must_be(DCM_SamplesPerPixel, tags.number(DCM_SamplesPerPixel), 1);
    tags.must_be(DCM_BitsAllocated, tags.number(DCM_BitsAllocated), 16);
    const Uint16 stored = tags.number(DCM_BitsStored);
    if (!(stored >= 10 && stored <= 16)) tags.wrong(DCM_BitsStored, std::to_string(stored), "10 to 16");
    if (!tags.bad && tags.number(DCM_HighBit) != stored - 1)
        tags.wrong(DCM_HighBit, std::to_string(tags.number(DCM_HighBit)), std::to_string(stored - 1));
    tags.must_be(DCM_PixelRepresentation, tags.number(DCM_PixelRepresentation), 0);
    const std::string photometric = tags.text(DCM_PhotometricInterpretation), frames = tags.text(DCM_NumberOfFrames);
    if (!tags.bad && photometric != "MONOCHROME2")
        tags.wrong(DCM_PhotometricInterpretation, photometric, "MONOCHROME2");
    if (!tags.bad && std::atoi(frames.c_str()) != 2)
        tags.wrong(DCM_NumberOfFrames, frames, "2 (low energy, then high)");
    const double dy = tags.decimal(DCM_PixelSpacing, 0), dx = tags.decimal(DCM_PixelSpacing, 1);
    for (double mm : {dx, dy})
        if (!(mm >= finest_mm && mm <= coarsest_mm))
            tags.wrong(DCM_PixelSpacing, tags.text(DCM_PixelSpacing, false), "0.5 to 25 mm");
    const double slope = tags.decimal(DCM_RescaleSlope, 0), intercept = tags.decimal(DCM_RescaleIntercept, 0);
    if (!(slope > 0 && slope < 1)) tags.wrong(DCM_RescaleSlope, limits::plain(slope), "over 0 to 1");
    if (!(std::abs(intercept) < 100)) tags.wrong(DCM_RescaleIntercept, limits::plain(intercept), "−100 to 100");
    for (const auto& [key, side] : {std::pair{DCM_Rows, rows}, {DCM_Columns, columns}})
        if (!(side >= 16 && side <= largest_side)) tags.wrong(key, std::to_string(side), "16 to 4096");
    const std::string labels = tags.text(DCM_FrameLabelVector, false);
    if (!tags.bad && labels.starts_with("HIGH"))
        tags.bad = error("frames_swapped", name_of(DCM_FrameLabelVector),
            file + ": " + name_of(DCM_FrameLabelVector) + " is " + shown(labels) + "; allowed is LOW, then HIGH.");
    if (tags.bad) return refuse(*tags.bad);

    const Uint16* pixels = nullptr;
    unsigned long count = 0;
    set.findAndGetUint16Array(DCM_PixelData, pixels, &count);
    const std::size_t frame = std::size_t{rows} * columns;
    if (read.bad() || !pixels || count < 2 * frame)
        return refuse(error("cut_short", "PixelData (7fe0,0010)",
            file + ": PixelData (7fe0,0010) holds " + std::to_string(pixels ? count : 0) + " values; " +
                std::to_string(2 * frame) + " are needed (2 frames of " + std::to_string(rows) + " × " +
                std::to_string(columns) + "). The file is cut short."));
    ScanFile out;
    out.map.dx_mm = dx;
    out.map.dy_mm = dy;
    const unsigned mask = (1u << stored) - 1;
    for (xray::Image* image : {&out.map.low, &out.map.high}) {
        image->resize(rows, columns);
        for (std::size_t i = 0; i < frame; ++i) image->data()[i] = (pixels[i] & mask) * slope + intercept;
        pixels += frame;
    }
    out.of = {tags.text(DCM_PatientName, false), tags.text(DCM_PatientID, false),
        tags.text(DCM_PatientBirthDate, false), tags.text(DCM_PatientSex, false), tags.text(DCM_StudyDate, false)};
    return out;
}

std::string write_scan(const ScanFile& scan)
{
    be_quiet();
    DcmFileFormat format;
    DcmDataset& set = *format.getDataset();
    char uid[100];
    const xray::Map& map = scan.map;
    const auto rows = static_cast<Uint16>(map.rows()), columns = static_cast<Uint16>(map.columns());
    const auto text = [&](const DcmTagKey& key, const std::string& value) {
        set.putAndInsertString(key, value.c_str());
    };
    text(DCM_SOPClassUID, UID_MultiframeGrayscaleWordSecondaryCaptureImageStorage);
    for (const DcmTagKey& key : {DCM_SOPInstanceUID, DCM_StudyInstanceUID, DCM_SeriesInstanceUID})
        text(key, dcmGenerateUniqueIdentifier(uid, SITE_INSTANCE_UID_ROOT));
    text(DCM_SpecificCharacterSet, "ISO_IR 192");
    text(DCM_Modality, "OT");
    text(DCM_ConversionType, "WSD");
    text(DCM_StudyDate, scan.of.date);
    text(DCM_PatientName, scan.of.name);
    text(DCM_PatientID, scan.of.id);
    text(DCM_PatientBirthDate, scan.of.birth_date);
    text(DCM_PatientSex, scan.of.sex);
    text(DCM_BodyPartExamined, "WHOLEBODY");
    text(DCM_FrameLabelVector, "LOW\\HIGH");
    text(DCM_PatientOrientation, "L\\F");
    text(DCM_PhotometricInterpretation, "MONOCHROME2");
    text(DCM_NumberOfFrames, "2");
    text(DCM_PixelSpacing, limits::plain(map.dy_mm) + '\\' + limits::plain(map.dx_mm));
    text(DCM_RescaleIntercept, limits::plain(lowest_written));
    text(DCM_RescaleSlope, limits::plain(1 / steps_per_unit));
    text(DCM_RescaleType, "US");
    for (const auto& [key, value] : {std::pair{DCM_SamplesPerPixel, 1}, {DCM_BitsAllocated, 16}, {DCM_BitsStored, 16},
             {DCM_HighBit, 15}, {DCM_PixelRepresentation, 0}})
        set.putAndInsertUint16(key, static_cast<Uint16>(value));
    set.putAndInsertUint16(DCM_Rows, rows);
    set.putAndInsertUint16(DCM_Columns, columns);
    std::vector<Uint16> pixels;
    for (const xray::Image* image : {&map.low, &map.high})
        for (Eigen::Index i = 0; i < image->size(); ++i)
            pixels.push_back(static_cast<Uint16>(
                std::clamp(std::lround((image->data()[i] - lowest_written) * steps_per_unit), 0L, 65535L)));
    set.putAndInsertUint16Array(DCM_PixelData, pixels.data(), static_cast<unsigned long>(pixels.size()));

    std::string out(2 * pixels.size() + 65536, '\0');
    DcmOutputBufferStream stream(out.data(), static_cast<offile_off_t>(out.size()));
    format.transferInit();
    format.write(stream, EXS_LittleEndianExplicit, EET_ExplicitLength, nullptr);
    format.transferEnd();
    void* at = nullptr;
    offile_off_t length = 0;
    stream.flushBuffer(at, length);
    out.resize(static_cast<std::size_t>(length));
    return out;
}

Outcome<xray::Table> read_tissue_table(const std::string& text, const std::string& file)
{
    Messages bad;
    xray::Table out;
    if (const auto j = parsed(text, file, bad)) {
        if (j->contains("id") && (*j)["id"].is_string()) out.id = (*j)["id"].get<std::string>();
        const Json mu = j->contains("mu_cm2_per_g") ? (*j)["mu_cm2_per_g"] : Json::object();
        const auto energy = [&](const char* name) { return mu.is_object() && mu.contains(name) ? mu[name] : Json(); };
        out.low = attenuation(energy("low"), "profile.mu_cm2_per_g.low.", bad);
        out.high = attenuation(energy("high"), "profile.mu_cm2_per_g.high.", bad);
        const Json field = j->contains("field_mm") ? (*j)["field_mm"] : Json();
        if (field.is_array() && field.size() == 2 && field[0].is_number() && field[1].is_number()) {
            out.field_width_mm = field[0].get<double>();
            out.field_height_mm = field[1].get<double>();
        } else {
            bad.push_back(error("missing_field", "profile.field_mm", "profile.field_mm must be two numbers, mm."));
        }
        if (bad.empty()) bad = xray::check(out);
    }
    return bad.empty() ? Outcome<xray::Table>(out) : Outcome<xray::Table>::refuse(std::move(bad));
}

Outcome<xray::Lines> read_lines(const std::string& text, const std::string& file)
{
    Messages bad;
    xray::Lines out;
    if (const auto j = parsed(text, file, bad)) {
        for (const auto& [name, value] : {std::pair{"neck", &out.neck_mm}, {"pelvis", &out.pelvis_mm}}) {
            if (!j->contains(name) || !(*j)[name].is_number())
                bad.push_back(error("missing_field", std::string("lines.") + name,
                    std::string("lines.") + name + " must be a number, mm from the picture's top."));
            else
                *value = (*j)[name].get<double>();
        }
        for (const xray::LineRow& row : xray::line_rows) {
            const Json line = j->contains(row.id) ? (*j)[row.id] : Json();
            bool good = line.is_array() && line.size() >= 2;
            for (const Json& spot : line) {
                good = good && spot.is_array() && spot.size() == 2 && spot[0].is_number() && spot[1].is_number();
                if (good) (out.*row.line).push_back({spot[0].get<double>(), spot[1].get<double>()});
            }
            if (!good)
                bad.push_back(error("missing_field", std::string("lines.") + row.id,
                    std::string("lines.") + row.id + " must be a list of two or more points [x, y], mm."));
        }
    }
    return bad.empty() ? Outcome<xray::Lines>(out) : Outcome<xray::Lines>::refuse(std::move(bad));
}

std::string write_lines(const xray::Lines& lines)
{
    const auto tenth = [](double mm) { return std::round(10 * mm) / 10; };
    Json j = {{"neck", tenth(lines.neck_mm)}, {"pelvis", tenth(lines.pelvis_mm)}};
    for (const xray::LineRow& row : xray::line_rows) {
        Json points = Json::array();
        for (const xray::Spot& s : lines.*row.line) points.push_back({tenth(s.x_mm), tenth(s.y_mm)});
        j[row.id] = points;
    }
    return j.dump();
}

} // namespace fusain::bench
