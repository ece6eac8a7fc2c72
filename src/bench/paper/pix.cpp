// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/pix.h"

#include <poppler/cpp/poppler-global.h>

namespace fusain::bench::paper {

Grey to_grey(Pix* pix)
{
    Grey out;
    out.width = pixGetWidth(pix);
    out.height = pixGetHeight(pix);
    out.pixels.resize(static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
    auto* to = out.pixels.data();
    for (int y = 0; y < out.height; ++y) {
        const l_uint32* line = pixGetData(pix) + static_cast<std::ptrdiff_t>(y) * pixGetWpl(pix);
        for (int x = 0; x < out.width; ++x) *to++ = static_cast<unsigned char>(GET_DATA_BYTE(line, x));
    }
    return out;
}

PixHeld to_pix(const Grey& grey)
{
    PixHeld out(pixCreate(grey.width, grey.height, 8));
    if (!out) return out;
    const auto* from = grey.pixels.data();
    for (int y = 0; y < grey.height; ++y) {
        l_uint32* line = pixGetData(out.get()) + static_cast<std::ptrdiff_t>(y) * pixGetWpl(out.get());
        for (int x = 0; x < grey.width; ++x) SET_DATA_BYTE(line, x, *from++);
    }
    return out;
}

void quiet_libraries()
{
    static const bool once = [] {
        setMsgSeverity(L_SEVERITY_NONE);
        poppler::set_debug_error_function([](const std::string&, void*) {}, nullptr);
        return true;
    }();
    (void)once;
}

} // namespace fusain::bench::paper
