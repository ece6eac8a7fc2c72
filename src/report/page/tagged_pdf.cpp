// SPDX-License-Identifier: GPL-3.0-or-later
#include "report/page/tagged_pdf.h"

#include "version.h"

#include <QColorSpace>
#include <QDateTime>

#define POINTERHOLDER_TRANSITION 4 // the standard pointers, as newer versions have them
#include <qpdf/Pl_Buffer.hh>
#include <qpdf/QPDF.hh>
#include <qpdf/QPDFPageDocumentHelper.hh>
#include <qpdf/QPDFPageObjectHelper.hh>
#include <qpdf/QPDFWriter.hh>

#include <regex>

namespace fusain::report {
namespace {

using Object = QPDFObjectHandle;
using Kind = Tag::Kind;

const char* role(Kind kind)
{
    constexpr const char* roles[] = {"", "H1", "H2", "P", "Figure", "TR", "TD", "TH"};
    return roles[static_cast<int>(kind)];
}

/// The elements of the document, and which marked content of which page each holds.
class Structure {
public:
    Structure(QPDF& pdf, const std::vector<Tag>& tags) : pdf_(pdf), tags_(tags)
    {
        root_ = pdf.makeIndirectObject(Object::parse("<< /Type /StructTreeRoot >>"));
        document_ = element("Document", root_);
        root_.replaceKey("/K", document_);
    }
    Object root() const { return root_; }

    /// The element of a tag, made when its content is met first.
    Object of(std::size_t i)
    {
        if (made_.size() <= i) made_.resize(i + 1, Object::newNull());
        if (!made_[i].isNull()) return made_[i];
        const Tag& tag = tags_[i];
        Object parent = document_;
        if (tag.kind == Kind::row) {
            if (table_.isNull()) table_ = element("Table", document_);
            parent = table_;
        } else if (tag.kind == Kind::cell || tag.kind == Kind::head_cell) {
            parent = row_;
        } else {
            table_ = Object::newNull();
        }
        Object made = element(role(tag.kind), parent);
        if (tag.kind == Kind::figure) made.replaceKey("/Alt", Object::newUnicodeString(tag.alternative.toStdString()));
        if (tag.kind == Kind::head_cell) made.replaceKey("/A", Object::parse("<< /O /Table /Scope /Column >>"));
        if (tag.kind == Kind::row) row_ = made;
        return made_[i] = made;
    }

private:
    Object element(const char* type, Object parent)
    {
        Object e =
            pdf_.makeIndirectObject(Object::parse("<< /Type /StructElem /S /" + std::string(type) + " /K [ ] >>"));
        e.replaceKey("/P", parent);
        if (parent.hasKey("/K") && parent.getKey("/K").isArray()) parent.getKey("/K").appendItem(e);
        return e;
    }
    QPDF& pdf_;
    const std::vector<Tag>& tags_;
    Object root_, document_, table_ = Object::newNull(), row_ = Object::newNull();
    std::vector<Object> made_;
};

std::string content_of(QPDFPageObjectHelper& page)
{
    Pl_Buffer buffer("content");
    page.pipeContents(&buffer);
    buffer.finish();
    const std::shared_ptr<Buffer> bytes = buffer.getBufferSharedPointer();
    return {reinterpret_cast<const char*>(bytes->getBuffer()), bytes->getSize()};
}

/// The page's content with marked content in place of the marks; its elements in the order of their numbers.
std::vector<Object> mark(QPDF& pdf, QPDFPageObjectHelper page, const std::vector<Tag>& tags, Structure& structure)
{
    static const std::regex drawn(R"(-9000 (-\d+) 0\.5\d* 0\.5\d* re\s+f\b)");
    const std::string content = content_of(page);
    std::vector<Object> elements;
    std::string out = "/Artifact BMC\n"; // what stands before the first mark
    auto from = content.cbegin();
    for (std::sregex_iterator m(content.begin(), content.end(), drawn), end; m != end; ++m) {
        out.append(from, (*m)[0].first);
        from = (*m)[0].second;
        const auto i = static_cast<std::size_t>(-std::stol((*m)[1].str()) - 1);
        if (i >= tags.size()) continue;
        out += "EMC\n";
        if (tags[i].kind == Kind::artifact) {
            out += "/Artifact BMC";
            continue;
        }
        Object e = structure.of(i);
        if (tags[i].kind == Kind::row) { // holds cells, no content
            out += "/Artifact BMC";
            continue;
        }
        const auto id = static_cast<long long>(elements.size());
        Object content_item = Object::parse("<< /Type /MCR >>");
        content_item.replaceKey("/Pg", page.getObjectHandle());
        content_item.replaceKey("/MCID", Object::newInteger(id));
        e.getKey("/K").appendItem(content_item);
        out += "/" + std::string(role(tags[i].kind)) + " << /MCID " + std::to_string(id) + " >> BDC";
        elements.push_back(e);
    }
    out.append(from, content.cend());
    out += "\nEMC\n";
    page.getObjectHandle().replaceKey("/Contents", Object::newStream(&pdf, out));
    return elements;
}

std::string xml(const QString& text) { return text.toHtmlEscaped().toStdString(); }

std::string metadata(const QString& title, const QString& language)
{
    const std::string now = QDateTime::currentDateTimeUtc().toString(Qt::ISODate).toStdString();
    return "<?xpacket begin='\xEF\xBB\xBF' id='W5M0MpCehiHzreSzNTczkc9d'?>\n<x:xmpmeta xmlns:x='adobe:ns:meta/'>"
           "<rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
           "<rdf:Description rdf:about='' xmlns:dc='http://purl.org/dc/elements/1.1/' "
           "xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmlns:pdfaid='http://www.aiim.org/pdfa/ns/id/'>"
           "<pdfaid:part>2</pdfaid:part><pdfaid:conformance>A</pdfaid:conformance>"
           "<dc:title><rdf:Alt><rdf:li xml:lang='x-default'>" +
           xml(title) + "</rdf:li></rdf:Alt></dc:title><dc:language><rdf:Bag><rdf:li>" + xml(language) +
           "</rdf:li></rdf:Bag></dc:language><xmp:CreatorTool>Fusain " FUSAIN_VERSION
           "</xmp:CreatorTool><xmp:CreateDate>" +
           now + "</xmp:CreateDate></rdf:Description></rdf:RDF></x:xmpmeta>\n<?xpacket end='w'?>";
}

Object stream(QPDF& pdf, const std::string& bytes, const char* dictionary)
{
    Object s = Object::newStream(&pdf, bytes);
    s.replaceDict(Object::parse(dictionary));
    return s;
}

} // namespace

Outcome<QByteArray> tagged(
    const QByteArray& bytes, const std::vector<Tag>& tags, const QString& title, const QString& language)
try {
    QPDF pdf;
    pdf.setSuppressWarnings(true);
    pdf.processMemoryFile("sheet", bytes.constData(), static_cast<std::size_t>(bytes.size()));
    Structure structure(pdf, tags);
    Object numbers = Object::newArray();
    int page_number = 0;
    for (QPDFPageObjectHelper& page : QPDFPageDocumentHelper(pdf).getAllPages()) {
        Object row = Object::newArray();
        for (const Object& e : mark(pdf, page, tags, structure)) row.appendItem(e);
        numbers.appendItem(Object::newInteger(page_number));
        numbers.appendItem(pdf.makeIndirectObject(row));
        page.getObjectHandle().replaceKey("/StructParents", Object::newInteger(page_number++));
        page.getObjectHandle().replaceKey("/Tabs", Object::newName("/S"));
        page.getObjectHandle().removeKey("/Annots"); // empty
    }
    Object tree = Object::newDictionary();
    tree.replaceKey("/Nums", numbers);
    structure.root().replaceKey("/ParentTree", pdf.makeIndirectObject(tree));
    structure.root().replaceKey("/ParentTreeNextKey", Object::newInteger(page_number));

    Object catalog = pdf.getRoot();
    catalog.replaceKey("/StructTreeRoot", structure.root());
    catalog.replaceKey("/MarkInfo", Object::parse("<< /Marked true >>"));
    catalog.replaceKey("/Lang", Object::newUnicodeString(language.toStdString()));
    catalog.replaceKey("/ViewerPreferences", Object::parse("<< /DisplayDocTitle true >>"));
    catalog.replaceKey("/Metadata", stream(pdf, metadata(title, language), "<< /Type /Metadata /Subtype /XML >>"));
    Object intent = Object::parse("<< /Type /OutputIntent /S /GTS_PDFA1 /OutputConditionIdentifier (sRGB) /Info (sRGB) "
                                  "/RegistryName (http://www.color.org) >>");
    intent.replaceKey("/DestOutputProfile",
        stream(pdf, QColorSpace(QColorSpace::SRgb).iccProfile().toStdString(), "<< /N 3 /Alternate /DeviceRGB >>"));
    Object intents = Object::newArray();
    intents.appendItem(pdf.makeIndirectObject(intent));
    catalog.replaceKey("/OutputIntents", intents);
    pdf.getTrailer().removeKey("/Info"); // the metadata say it

    QPDFWriter writer(pdf);
    writer.setOutputMemory();
    writer.setMinimumPDFVersion("1.7");
    writer.setObjectStreamMode(qpdf_o_disable);
    writer.setDeterministicID(true);
    writer.write();
    const std::shared_ptr<Buffer> out = writer.getBufferSharedPointer();
    return QByteArray(reinterpret_cast<const char*>(out->getBuffer()), static_cast<qsizetype>(out->getSize()));
} catch (const std::exception& e) {
    return Outcome<QByteArray>::refuse(
        {"bad_pdf", Level::error, "file", std::string("The sheet could not be made into a PDF/A: ") + e.what() + "."});
}

} // namespace fusain::report
