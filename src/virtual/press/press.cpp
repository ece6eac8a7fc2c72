// SPDX-License-Identifier: GPL-3.0-or-later
#include "virtual/press/press.h"

#include <QBuffer>
#include <QDate>
#include <QFont>
#include <QFontMetricsF>
#include <QLocale>
#include <QPageLayout>
#include <QPainter>
#include <QPdfWriter>
#include <QTime>

#include <cmath>
#include <functional>
#include <random>
#include <tuple>

namespace fusain::virt {
namespace {

using printout::DateOrder;
using printout::Field;

/// The same things under other words: five instruments that know nothing of each other.
struct Words {
    const char *title, *mass, *fat, *lean, *percent, *water, *inside, *outside, *protein, *mineral, *muscle, *index,
        *phase, *energy, *mark, *number, *at, *height, *age, *sex, *female, *male, *lean_by, *fat_by;
    const char* family;
    char decimal;
    const char* date; ///< as QDateTime writes it
};
constexpr Words vocabulary[] = {
    {"Body analysis", "Body weight", "Fat", "Lean body", "Fat percent", "Total water", "Inner water", "Outer water",
        "Proteins", "Mineral salts", "Muscle mass", "Body index", "Phase", "Daily rest energy", "Vigour", "Client",
        "Date", "Height", "Age", "Gender", "Woman", "Man", "Lean of parts", "Fat of parts", "Lato", '.',
        "yyyy-MM-dd hh:mm"},
    {"Scale station", "Mass", "Mass of fat", "Mass free of fat", "Fat %", "Water in the body", "Water in cells",
        "Water outside cells", "Protein", "Mineral", "Skeletal muscle", "BMI", "Phase angle", "Resting energy", "Score",
        "No.", "Measured", "Stature", "Years", "Sex", "F", "M", "Lean tissue", "Fat tissue", "B612", ',',
        "dd.MM.yyyy hh:mm"},
    {"Composition slip", "Weight", "Fat weight", "Weight without fat", "Fat ratio", "Body water", "Cell water",
        "Free water", "Body protein", "Bone and salts", "Muscles", "Weight index", "Angle", "Basal need", "Body points",
        "Person no", "Time of test", "Body height", "Age", "Sex", "female", "male", "Soft lean", "Soft fat",
        "B612 Mono", '.', "d MMM yyyy, hh:mm"},
    {"What you are made of", "Total weight", "Fat mass", "Fat-free mass", "Body fat", "All body water",
        "Intracellular water", "Extracellular water", "Protein mass", "Minerals", "Muscle weight", "Body mass index",
        "Phase angle 50 kHz", "Energy at rest", "Fitness mark", "Member", "Test date", "Height", "Age", "Sex", "Female",
        "Male", "Segment lean", "Segment fat", "Lato", '.', "MMM d, yyyy h:mm AP"},
    {"Measured today", "Gross mass", "Adipose", "Rest of body", "Adipose share", "Fluid", "Fluid in cells",
        "Fluid around cells", "Albumens", "Ash", "Muscle", "Quetelet", "Angle of phase", "Turnover", "Rank", "Visitor",
        "When", "Tall", "Age", "Kind", "Woman", "Man", "Lean", "Adipose tissue", "Lato", ',', "yyyy-MM-dd hh:mm"}};

constexpr const char* parts[] = {"right_arm", "left_arm", "trunk", "right_leg", "left_leg"};
constexpr const char* part_words[] = {"Right arm", "Left arm", "Trunk", "Right leg", "Left leg"};
constexpr double lean_share[] = {0.058, 0.056, 0.46, 0.17, 0.168}, fat_share[] = {0.065, 0.065, 0.50, 0.165, 0.16};

std::string written(double value, int decimals, char mark)
{
    std::string out = QString::number(value, 'f', decimals).toStdString();
    for (char& c : out)
        if (c == '.') c = mark;
    return out;
}

double shown(double value, int decimals) { return QString::number(value, 'f', decimals).toDouble(); }

/// Sets the sheet: a pen that knows page and place.
class Setter {
public:
    Setter(const Body& body, const Order& order)
        : order_(order), words_(vocabulary[order.words % std::size(vocabulary)]), random_(order.seed)
    {
        auto& l = out_.layout;
        l.id = "virtual_" + std::to_string(order.words) + "_" + std::to_string(static_cast<int>(order.style));
        l.title = order.title.empty() ? std::string(words_.title) + " (virtual)" : order.title;
        if (!order.id.empty()) l.id = order.id;
        l.method = "impedance";
        l.decimal = words_.decimal;
        l.client = {words_.number, words_.at, words_.height, words_.age, words_.sex};
        l.female = {words_.female};
        l.male = {words_.male};
        if (std::string_view(words_.date).starts_with("dd.")) l.date = DateOrder::dmy;
        out_.number = order.number;
        out_.at = order.at;
        out_.height_cm = std::round(body.height_cm);
        out_.age_y = std::floor(body.age_y);
        out_.sex = body.sex;
        family_ = order.family.empty() ? words_.family : order.family;
        point_ = order.point > 0 ? order.point : order.style == Style::receipt ? 9.5 : 10.5;
        if (order.style == Style::receipt) {
            out_.width_mm = 80;
            if (order.family.empty()) family_ = "B612 Mono";
        }
        out_.pages.emplace_back();
        numbers(body);
    }

    Printout print()
    {
        switch (order_.style) {
        case Style::list: list(); break;
        case Style::boxes: boxes(); break;
        case Style::columns: columns(); break;
        case Style::table: table(); break;
        case Style::receipt: receipt(); break;
        }
        return std::move(out_);
    }

private:
    struct Line {
        Field field;
        Told told;
    };

    double chance(double a, double b) { return std::uniform_real_distribution<double>(a, b)(random_); }

    void add(const char* key, const char* quantity, const char* label, const char* unit, int decimals, double value,
        bool range = false, bool optional = false)
    {
        Line l;
        l.field = {key, quantity, label, unit, "", "", decimals, range, optional};
        l.told.value = shown(value, decimals);
        l.told.text = written(value, decimals, words_.decimal);
        if (range) {
            l.told.low = shown(value * chance(0.78, 0.97), decimals);
            l.told.high = shown(value * chance(1.03, 1.25), decimals);
        }
        lines_.push_back(std::move(l));
    }

    void numbers(const Body& b)
    {
        const double fat = shown(b.fat_mass_kg, 1), lean = shown(b.fat_free_mass_kg, 1), mass = shown(fat + lean, 1),
                     water = shown(b.water_kg(), 1), outside = shown(water * b.outside_share(), 1),
                     protein = shown((lean - water) * 0.75, 2), metres = out_.height_cm / 100;
        add("mass", "mass_kg", words_.mass, "kg", 1, mass, true);
        add("fat", "fat_mass_kg", words_.fat, "kg", 1, fat, true);
        add("lean", "fat_free_mass_kg", words_.lean, "kg", 1, lean);
        add("percent", "fat_percent", words_.percent, "%", 1, 100 * fat / mass, true);
        add("water", "total_body_water_l", words_.water, "L", 1, water);
        add("inside", "intracellular_water_l", words_.inside, "L", 1, water - outside);
        add("outside", "extracellular_water_l", words_.outside, "L", 1, outside);
        add("protein", "protein_kg", words_.protein, "kg", 2, protein);
        add("mineral", "mineral_kg", words_.mineral, "kg", 2, lean - water - protein);
        add("muscle", "skeletal_muscle_kg", words_.muscle, "kg", 1, lean * 0.55, true);
        add("index", "bmi_kg_per_m2", words_.index, "", 1, mass / (metres * metres), true);
        add("phase", "phase_angle_deg", words_.phase, "°", 1, chance(4.2, 7.9));
        add("energy", "resting_kcal", words_.energy, "kcal", 0, 370 + 21.6 * lean);
        add("mark", "", words_.mark, "", 0, std::floor(chance(40, 99)), false, true);
    }

    /// Right, left, trunk …: lean and fat of each, `quantity` 0 or 1.
    Line part(std::size_t i, int fat, const char* under)
    {
        const double whole = (fat ? lines_[1] : lines_[2]).told.value;
        Line l;
        l.field = {std::string(fat ? "fat_" : "lean_") + parts[i], fat ? "fat_kg" : "lean_kg", part_words[i], "kg",
            parts[i], under, 2, false, false};
        const double value = whole * (fat ? fat_share[i] : lean_share[i]) * chance(0.95, 1.05);
        l.told.value = shown(value, 2);
        l.told.text = written(value, 2, words_.decimal);
        return l;
    }

    void take(const Line& l, bool range)
    {
        Line kept = l;
        kept.field.range = kept.field.range && range;
        if (!kept.field.range) kept.told.low = kept.told.high = std::nullopt;
        out_.layout.fields.push_back(kept.field);
        out_.told[kept.field.key] = kept.told;
    }

    Ink& ink(double x, double y, const std::string& text, bool bold = false, double point = 0)
    {
        Ink i;
        i.x = x;
        i.y = y;
        i.text = text;
        i.family = family_;
        i.bold = bold;
        i.point = point > 0 ? point : point_;
        out_.pages.back().push_back(i);
        return out_.pages.back().back();
    }
    void right(double x, double y, const std::string& text, bool bold = false, double point = 0)
    {
        ink(x, y, text, bold, point).w = 1;
    }
    void bar(double x, double y, double w, double h, QColor colour)
    {
        Ink i;
        i.x = x;
        i.y = y;
        i.w = w;
        i.h = h;
        i.fill = true;
        i.colour = colour;
        out_.pages.back().push_back(i);
    }
    void frame(double x, double y, double w, double h)
    {
        for (const auto& [dx, dy, lw, lh] :
            {std::tuple(0., 0., w, .25), {0., h, w, .25}, {0., 0., .25, h}, {w, 0., .25, h}})
            bar(x + dx, y + dy, lw, lh, Qt::darkGray);
    }

    std::vector<std::pair<std::string, std::string>> who()
    {
        const auto day = QDateTime::fromString(QString::fromStdString(order_.at), Qt::ISODate);
        return {{words_.number, out_.number},
            {words_.at, QLocale::c().toString(day, QString(words_.date)).toStdString()},
            {words_.height, std::to_string(int(out_.height_cm)) + " cm"}, {words_.age, std::to_string(int(out_.age_y))},
            {words_.sex, out_.sex == Sex::male ? words_.male : words_.female}};
    }

    std::string limits(const Told& t, int decimals)
    {
        return "(" + written(*t.low, decimals, words_.decimal) + (order_.words % 2 ? " - " : " – ") +
               written(*t.high, decimals, words_.decimal) + ")";
    }

    double row() const { return point_ * 0.62; }

    double wide(const std::string& text) const
    {
        QFont font(QString::fromStdString(family_));
        font.setPixelSize(100);
        return QFontMetricsF(font).horizontalAdvance(QString::fromStdString(text)) / 100 * point_ * 25.4 / 72;
    }
    double beside_who() const
    {
        double out = 0;
        for (const char* label : {words_.number, words_.at, words_.height, words_.age, words_.sex})
            out = std::max(out, wide(label));
        return out + 7;
    }

    void head(double x, double& y)
    {
        ink(x, y, words_.title, true, point_ * 1.7);
        y += 2.2 * row();
        for (const auto& [label, value] : who()) {
            ink(x, y, label);
            ink(x + beside_who(), y, value);
            y += row();
        }
        y += 1.5 * row();
    }

    void foot()
    {
        const double y = out_.height_mm - 12;
        ink(20, y, "Hall 3, counter 0117", false, 7.5);
        right(out_.width_mm - 20, y,
            "page " + std::to_string(out_.pages.size()) + " of " + (order_.two_pages ? "2" : "1"), false, 7.5);
    }

    void turn_over(double& y, double top)
    {
        if (!order_.two_pages) return;
        foot();
        out_.pages.emplace_back();
        y = top;
    }

    void one(const Line& l, double label_x, double value_x, double y, bool range)
    {
        ink(label_x, y, l.field.label);
        right(value_x, y, l.told.text);
        if (!l.field.unit.empty()) ink(value_x + 1.3, y, l.field.unit);
        if (l.field.range && range) ink(value_x + 9 + point_ * 0.3, y, limits(l.told, l.field.decimals));
        take(l, range);
    }

    void list()
    {
        double y = 30;
        head(22, y);
        for (std::size_t i = 0; i < lines_.size(); ++i, y += 1.15 * row()) one(lines_[i], 22, 98, y, true);
        y += row();
        turn_over(y, 30);
        for (int fat : {0, 1}) {
            const char* under = fat ? words_.fat_by : words_.lean_by;
            ink(22, y, under, true, point_ * 1.1);
            y += 1.1 * row();
            for (std::size_t i = 0; i < 5; ++i, y += row()) one(part(i, fat, under), 26, 98, y, false);
            y += row();
        }
        foot();
    }

    /// Number under its label in a frame; below, two columns of sections.
    void boxes()
    {
        double y = 24;
        ink(18, y, words_.title, true, point_ * 1.6);
        double x = 100;
        for (const auto& [label, value] : who()) {
            ink(x, y - 4, label, false, point_ * 0.85);
            ink(x + beside_who(), y - 4, value, false, point_ * 0.85);
            y += 0.9 * row();
        }
        y += row();
        x = 15;
        for (std::size_t i = 0; i < 4; ++i, x += 46) {
            frame(x, y, 43, 22);
            ink(x + 4, y + 7, lines_[i].field.label, false, point_ * 0.9);
            ink(x + 8, y + 16.5, lines_[i].told.text, true, point_ * 1.6);
            ink(x + 29, y + 16.5, lines_[i].field.unit, false, point_ * 0.9);
            take(lines_[i], false);
        }
        y += 34;
        columns_of(y, 4);
        ink(18, 230, "A second test within 2 hours may differ by 0.4 kg. Drink 1 glass of water.", false, 7.5);
        ink(18, 235, "Limits hold for people of 20 to 70 years.", false, 7.5);
        foot();
    }

    void columns_of(double y, std::size_t from)
    {
        const double top = y;
        double x = 18, value = 48;
        for (std::size_t i = from; i < lines_.size(); ++i) value = std::max(value, wide(lines_[i].field.label) + 20);
        const std::size_t half = from + (lines_.size() - from + 1) / 2;
        for (std::size_t i = from; i < lines_.size(); ++i, y += 1.2 * row()) {
            if (i == half) {
                x = 112;
                y = top;
            }
            one(lines_[i], x, x + value, y, false);
        }
    }

    /// Two columns with a section each, the same labels in both.
    void columns()
    {
        double y = 28;
        head(18, y);
        columns_of(y, 0);
        y += 11 * row();
        turn_over(y, 30);
        const double top = y;
        for (int fat : {0, 1}) {
            const double x = fat ? 112 : 18;
            const char* under = fat ? words_.fat_by : words_.lean_by;
            y = top;
            bar(x - 2, y - 5.2, 80, 7.5, QColor(205, 205, 205));
            ink(x, y, under, true);
            y += 1.5 * row();
            for (std::size_t i = 0; i < 5; ++i, y += 1.1 * row()) one(part(i, fat, under), x, x + 58, y, false);
        }
        foot();
    }

    /// Parts in rows, what they are made of in columns; earlier values below, which are not to be read.
    void table()
    {
        double y = 28;
        head(20, y);
        for (std::size_t i = 0; i < lines_.size(); ++i, y += row()) one(lines_[i], 20, 84, y, true);
        y += 1.2 * row();
        turn_over(y, 30);
        const double column[] = {90, 130};
        for (int fat : {0, 1}) right(column[fat] + 4, y, fat ? words_.fat_by : words_.lean_by, true);
        bar(20, y + 1.8, 120, 0.3, Qt::gray);
        y += 1.3 * row();
        for (std::size_t i = 0; i < 5; ++i, y += 1.05 * row()) {
            ink(20, y, part_words[i]);
            for (int fat : {0, 1}) {
                const Line l = part(i, fat, fat ? words_.fat_by : words_.lean_by);
                right(column[fat], y, l.told.text);
                ink(column[fat] + 1.3, y, "kg");
                take(l, false);
            }
        }
        y += 1.2 * row();
        ink(20, y, "Earlier tests", true);
        out_.layout.headings = {"Earlier tests"};
        y += row();
        for (std::size_t i = 0; i < 3; ++i, y += row()) {
            ink(20, y, lines_[i].field.label);
            right(84, y, written(lines_[i].told.value * 1.04 + 0.3, 1, words_.decimal));
            ink(85.3, y, lines_[i].field.unit);
        }
        foot();
    }

    void receipt()
    {
        double y = 12;
        ink(16, y, words_.title, true, point_ * 1.1);
        y += 2 * row();
        for (const auto& [label, value] : who()) {
            ink(5, y, label + ":");
            ink(36, y, value, false, point_ * 0.86);
            y += 0.85 * row();
        }
        y += row();
        for (const Line& l : lines_) {
            constexpr std::size_t across = 26;
            const std::size_t used = QString::fromStdString(l.field.label).size() + l.told.text.size();
            ink(5, y,
                l.field.label + std::string(across > used ? across - used : 2, '.') + l.told.text +
                    (l.field.unit.empty() ? "" : " " + l.field.unit),
                false, point_ * 0.88);
            take(l, false);
            y += 0.9 * row();
        }
        y += row();
        ink(14, y, "keep it dry 0213", false, 7.5);
        out_.height_mm = y + 8;
    }

    const Order& order_;
    const Words& words_;
    std::mt19937_64 random_;
    std::string family_;
    double point_ = 10;
    std::vector<Line> lines_;
    Printout out_;
};

} // namespace

Order hall_order(const std::string& number, const std::string& at)
{
    Order o;
    o.style = Style::list;
    o.words = 3;
    o.number = number;
    o.at = at;
    o.id = "hall_analyser";
    o.title = "Analyser in the hall";
    return o;
}

Printout print(const Body& body, const Order& order) { return Setter(body, order).print(); }

void draw(QPainter& p, const Printout& printout, std::size_t page)
{
    const double dots = p.device()->logicalDpiX() / 25.4;
    for (const Ink& i : printout.pages.at(page)) {
        if (i.fill) {
            p.fillRect(QRectF(i.x * dots, i.y * dots, i.w * dots, i.h * dots), i.colour);
            continue;
        }
        QFont font(QString::fromStdString(i.family));
        font.setPixelSize(std::max(1, int(std::lround(i.point / 72 * 25.4 * dots))));
        font.setBold(i.bold);
        font.setLetterSpacing(QFont::AbsoluteSpacing, 0.01 * dots); // no ligatures: a PDF would not say what they are
        p.setFont(font);
        p.setPen(i.colour);
        const QString text = QString::fromStdString(i.text);
        const double x = i.w > 0 ? i.x * dots - QFontMetricsF(font, p.device()).horizontalAdvance(text) : i.x * dots;
        p.drawText(QPointF(x, i.y * dots), text);
    }
}

namespace {

QByteArray paged(const Printout& printout, const std::function<void(QPainter&, std::size_t)>& page)
{
    QByteArray out;
    QBuffer buffer(&out);
    buffer.open(QIODevice::WriteOnly);
    QPdfWriter writer(&buffer);
    writer.setResolution(1200);
    writer.setPageSize(
        QPageSize(QSizeF(printout.width_mm, printout.height_mm), QPageSize::Millimeter, {}, QPageSize::ExactMatch));
    writer.setPageMargins({});
    QPainter painter(&writer);
    for (std::size_t i = 0; i < printout.pages.size(); ++i) {
        if (i) writer.newPage();
        page(painter, i);
    }
    painter.end();
    return out;
}

} // namespace

QByteArray pdf(const Printout& printout)
{
    return paged(printout, [&](QPainter& p, std::size_t page) { draw(p, printout, page); });
}

QByteArray scan_pdf(const std::vector<QImage>& pages, const Printout& printout)
{
    return paged(printout, [&](QPainter& p, std::size_t page) {
        const double dots = p.device()->logicalDpiX() / 25.4;
        p.drawImage(QRectF(0, 0, printout.width_mm * dots, printout.height_mm * dots), pages.at(page));
    });
}

QImage picture(const Printout& printout, std::size_t page, double dpi)
{
    QImage out(int(printout.width_mm / 25.4 * dpi), int(printout.height_mm / 25.4 * dpi), QImage::Format_Grayscale8);
    out.setDotsPerMeterX(int(std::lround(dpi / 0.0254)));
    out.setDotsPerMeterY(out.dotsPerMeterX());
    out.fill(Qt::white);
    QPainter painter(&out);
    painter.setRenderHint(QPainter::TextAntialiasing);
    draw(painter, printout, page);
    return out;
}

QImage worn(const QImage& picture, const Wear& wear, std::uint64_t seed)
{
    std::mt19937_64 random(seed);
    QImage out(picture.size(), QImage::Format_Grayscale8);
    out.setDotsPerMeterX(picture.dotsPerMeterX());
    out.setDotsPerMeterY(picture.dotsPerMeterY());
    out.fill(QColor(200, 200, 200)); // the lid behind the sheet
    {
        QPainter p(&out);
        p.setRenderHint(QPainter::SmoothPixmapTransform);
        p.translate(out.width() / 2.0, out.height() / 2.0);
        p.rotate(wear.turn_deg);
        p.translate(-out.width() / 2.0, -out.height() / 2.0);
        QImage plain = picture;
        plain.setDevicePixelRatio(1);
        p.drawImage(QRectF(0, 0, out.width(), out.height()), plain);
    }
    const int w = out.width(), h = out.height();
    std::vector<float> light(std::size_t(w) * std::size_t(h));
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) light[std::size_t(y) * std::size_t(w) + std::size_t(x)] = out.constScanLine(y)[x];
    if (wear.blur_px > 0) { // a Gauss bell, across and then down
        const int reach = std::max(1, int(std::ceil(2.5 * wear.blur_px)));
        std::vector<float> bell;
        float sum = 0;
        for (int k = -reach; k <= reach; ++k) {
            bell.push_back(float(std::exp(-0.5 * k * k / (wear.blur_px * wear.blur_px))));
            sum += bell.back();
        }
        for (float& b : bell) b /= sum;
        std::vector<float> line;
        const auto along = [&](int n, std::size_t at, std::size_t step) {
            line.resize(std::size_t(n));
            for (int i = 0; i < n; ++i) line[std::size_t(i)] = light[at + std::size_t(i) * step];
            for (int i = 0; i < n; ++i) {
                float v = 0;
                for (int k = -reach; k <= reach; ++k)
                    v += bell[std::size_t(k + reach)] * line[std::size_t(std::clamp(i + k, 0, n - 1))];
                light[at + std::size_t(i) * step] = v;
            }
        };
        for (int y = 0; y < h; ++y) along(w, std::size_t(y) * std::size_t(w), 1);
        for (int x = 0; x < w; ++x) along(h, std::size_t(x), std::size_t(w));
    }
    std::normal_distribution<float> noise(0, float(wear.noise));
    std::uniform_real_distribution<double> anywhere(0, 6.28);
    const double a = anywhere(random), b = anywhere(random), c = anywhere(random);
    for (int y = 0; y < h; ++y)
        for (int x = 0; x < w; ++x) {
            const double u = 6.28 * x / w, v = 6.28 * y / h;
            const double shade = wear.shade * (0.5 + 0.25 * std::sin(0.7 * u + a) + 0.25 * std::sin(0.6 * v + b) +
                                                  0.08 * std::sin(5 * u + 3 * v + c));
            const double paper = 128 + (light[std::size_t(y) * std::size_t(w) + std::size_t(x)] - 128) * wear.contrast;
            const double value = paper - shade + (wear.noise > 0 ? noise(random) : 0);
            out.scanLine(y)[x] = static_cast<uchar>(std::clamp(value, 0.0, 255.0));
        }
    return out;
}

QByteArray file_of(const QImage& picture, const Wear& wear)
{
    QByteArray out;
    QBuffer buffer(&out);
    buffer.open(QIODevice::WriteOnly);
    if (wear.quality > 0)
        picture.save(&buffer, "JPG", wear.quality);
    else
        picture.save(&buffer, "PNG");
    return out;
}

} // namespace fusain::virt
