// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/eye.h"

#include <omp.h>
#include <tesseract/baseapi.h>
#include <tesseract/resultiterator.h>

#include <memory>

namespace fusain::bench::paper {
namespace {

class Eye {
public:
    Eye()
    {
        omp_set_max_active_levels(0); // four threads for one line of letters wait for each other more than they work
        const std::vector<std::string> names = {
            "load_system_dawg", "load_freq_dawg", "invert_threshold", "tessedit_do_invert"};
        const std::vector<std::string> values = {"0", "0", "0", "0"};
        ready_ = api_.Init(nullptr, "eng", tesseract::OEM_LSTM_ONLY, nullptr, 0, &names, &values, false) == 0;
        api_.SetVariable("user_defined_dpi", "300");
        api_.SetVariable("debug_file", "/dev/null"); // it talks of pictures that are too small
    }
    bool ready() const { return ready_; }

    /// One line of words; boxes in dots of the picture that was given.
    std::vector<Read> line(Pix* grey)
    {
        std::vector<Read> out;
        api_.SetPageSegMode(tesseract::PSM_SINGLE_LINE);
        api_.SetImage(grey);
        if (api_.Recognize(nullptr) != 0) return out;
        const std::unique_ptr<tesseract::ResultIterator> it(api_.GetIterator());
        if (it) do {
                const std::unique_ptr<char[]> text(it->GetUTF8Text(tesseract::RIL_WORD));
                int x = 0, y = 0, right = 0, bottom = 0;
                if (!text || !*text.get() || !it->BoundingBox(tesseract::RIL_WORD, &x, &y, &right, &bottom)) continue;
                out.push_back({text.get(), {double(x), double(y), double(right - x), double(bottom - y)},
                    std::clamp(it->Confidence(tesseract::RIL_WORD) / 100.0, 0.0, 1.0)});
            } while (it->Next(tesseract::RIL_WORD));
        api_.Clear();
        return out;
    }

private:
    tesseract::TessBaseAPI api_;
    bool ready_ = false;
};

/// Made once a thread: it takes a tenth of a second.
Eye& eye()
{
    thread_local Eye one;
    return one;
}

} // namespace

bool eye_is_ready() { return eye().ready(); }
std::vector<Read> line_of(Pix* grey) { return eye().line(grey); }

} // namespace fusain::bench::paper
