// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/words/method_words.h"

#include <map>

namespace fusain::report {

const MethodWords& words_of(protocol::Method method)
{
    static const std::map<protocol::Method, MethodWords> all = {
        {protocol::Method::hydrostatic, tank_words()},
        {protocol::Method::air_displacement, chamber_words()},
        {protocol::Method::impedance, analyser_words()},
        {protocol::Method::absorptiometry, xray_words()},
    };
    return all.at(method);
}

const MethodWords& words_of(const bench::Visit& visit)
{
    static const MethodWords told_elsewhere = brought_words();
    return visit.row().told_elsewhere ? told_elsewhere : words_of(visit.method);
}

} // namespace fusain::report
