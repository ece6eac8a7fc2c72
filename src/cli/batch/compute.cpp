// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/batch/compute.h"

#include "cli/batch/csv.h"
#include "cli/batch/pipeline.h"
#include "cli/batch/record.h"
#include "bench/files/utf8.h"
#include "core/base/csv.h"

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <iostream>
#include <memory>
#include <thread>

namespace fusain::cli {
namespace {

int fail(const std::string& text)
{
    std::cerr << "fusain-cli: " << text << "\n";
    return exit_command;
}

bool write_all(int descriptor, std::string_view text)
{
    while (!text.empty()) {
        const ssize_t n = ::write(descriptor, text.data(), text.size());
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) return false;
        text.remove_prefix(static_cast<std::size_t>(n));
    }
    return true;
}

/// A file that is closed when it is done with; standard input and output stay open.
class File {
public:
    File(const std::string& name, int flags, int standard)
        : descriptor(name == "-" ? standard : ::open(name.c_str(), flags | O_CLOEXEC, 0600)), own_(name != "-")
    {
    }
    ~File()
    {
        if (own_ && descriptor >= 0) ::close(descriptor);
    }
    File(const File&) = delete;
    File& operator=(const File&) = delete;
    const int descriptor;

private:
    bool own_;
};

/// What a worker does with a block: each line becomes an answer, unless it is one. Lines of CSV are JSON already.
std::function<void(Block&)> worker(bool csv_out, bool story)
{
    auto computer = std::make_shared<Computer>(story ? Detail::whole : Detail::numbers);
    return [computer, csv_out, story](Block& block) {
        if (block.answered) return;
        std::string out;
        out.reserve(3 * block.text.size());
        long line = block.line;
        std::string_view left = block.text;
        while (!left.empty()) {
            const std::size_t end = left.find('\n');
            const std::string_view text = left.substr(0, end);
            left.remove_prefix(end == std::string_view::npos ? left.size() : end + 1);
            ++line;
            if (text.find_first_not_of(" \t\r") == std::string_view::npos) continue;
            const Answer& answer = computer->compute(text, line);
            block.errors = block.errors || answer.is_error();
            if (csv_out)
                write_csv(out, answer);
            else
                write_json(out, answer, story);
        }
        block.text = std::move(out);
    };
}

/// Rows of CSV, a batch at a time.
class CsvBlocks {
public:
    CsvBlocks(std::istream& in, bool csv_out, bool story) : in_(in), csv_out_(csv_out), story_(story) {}

    /// What is wrong with the header; nothing: the rest is read by next().
    std::string header()
    {
        if (in_.peek() == 0xEF) { // a byte order mark
            char mark[3];
            in_.read(mark, 3);
        }
        if (in_.peek() == 0xFF || in_.peek() == 0xFE) return "the CSV is UTF-16; save it as UTF-8";
        try {
            const auto names = csv::read_row(in_, line_);
            if (!names || (names->size() == 1 && names->front().empty()))
                return "the CSV has no header line of field names";
            if (const std::string wrong = CsvRecords::wrong_with(*names); !wrong.empty()) return "CSV: " + wrong;
            names_ = *names;
            records_.emplace(names_);
        } catch (const std::runtime_error& e) {
            return std::string("CSV: ") + e.what();
        }
        return "";
    }

    /// Either rows as records for a worker, or one answer as it stands: to a row that is no record.
    bool next(Block& block)
    {
        for (std::size_t rows = 0; !trouble_ && !ended_ && rows < rows_in_a_block;
             rows = block.text.empty() ? 0 : rows + 1) {
            if (rows > 0 && in_.rdbuf()->in_avail() <= 0) break; // a pipe that waits for its answer gets it
            if (rows == 0) block.line = line_;
            const long before = line_;
            take_row(block);
            // so that a line's number is right where a cell has several
            if (line_ != before + 1 && !block.text.empty()) break;
        }
        if (!block.text.empty()) return true;
        if (!trouble_) return false;
        block.answered = block.errors = true;
        if (csv_out_)
            write_csv(block.text, *trouble_);
        else
            write_json(block.text, *trouble_, story_);
        trouble_.reset();
        return true;
    }

private:
    static constexpr std::size_t rows_in_a_block = 256;

    void take_row(Block& block)
    {
        std::optional<std::vector<std::string>> cells;
        try {
            cells = csv::read_row(in_, line_);
        } catch (const std::runtime_error& e) {
            trouble_ = error_answer("bad_csv", std::string("CSV: ") + e.what() + ".");
            ended_ = true;
            return;
        }
        ended_ = !cells;
        if (ended_ || (cells->size() == 1 && cells->front().empty())) return;
        for (std::size_t i = 0; i < std::min(cells->size(), names_.size()); ++i)
            if (const std::size_t bad = first_bad_byte((*cells)[i])) {
                trouble_ = error_answer("not_utf8", "Line " + std::to_string(line_) + ", column " + names_[i] + ": \"" +
                                                        shown_text((*cells)[i]) + "\" is not UTF-8 (byte " +
                                                        std::to_string(bad) + " of the cell). Save the file as UTF-8.");
                trouble_->id.clear();
                append_json(trouble_->id, shown_text(cells->front()));
                return;
            }
        if (cells->size() == records_->width()) {
            records_->append(block.text, *cells);
            block.text += '\n';
            return;
        }
        trouble_ =
            error_answer("wrong_columns", "Line " + std::to_string(line_) + " has " + std::to_string(cells->size()) +
                                              " cells; the header has " + std::to_string(records_->width()) + ".");
        trouble_->id.clear();
        append_json(trouble_->id, shown_text(cells->front()));
    }

    std::istream& in_;
    bool csv_out_, story_, ended_ = false;
    long line_ = 0;
    std::vector<std::string> names_;
    std::optional<CsvRecords> records_;
    std::optional<Answer> trouble_; ///< told after the rows before it
};

/// The output, in a file beside the one that is asked for until it is whole: what stood there is never lost halfway.
class Output {
public:
    explicit Output(const std::string& name) : name_(name)
    {
        if (std::filesystem::is_symlink(name)) name_ = std::filesystem::weakly_canonical(name).string();
        struct stat there {};
        const bool plain = name != "-" && (::stat(name.c_str(), &there) != 0 || S_ISREG(there.st_mode));
        if (plain) part_ = name_ + ".part";
        file_.emplace(plain ? part_ : name, O_WRONLY | O_CREAT | O_TRUNC, STDOUT_FILENO);
    }
    ~Output()
    {
        if (!part_.empty()) ::unlink(part_.c_str());
    }
    bool is_open() const { return file_->descriptor >= 0; }
    bool write(std::string_view text)
    {
        if (error_ == 0 && !write_all(file_->descriptor, text)) error_ = errno ? errno : EIO;
        return error_ == 0;
    }
    /// Everything is written: it gets its name.
    bool finish()
    {
        if (error_ == 0 && !part_.empty()) {
            if (::fsync(file_->descriptor) != 0 || ::rename(part_.c_str(), name_.c_str()) != 0)
                error_ = errno;
            else
                part_.clear();
        }
        return error_ == 0;
    }
    std::string trouble() const { return std::strerror(error_); }

private:
    std::string name_, part_; ///< part_ empty: written where it is asked for
    std::optional<File> file_;
    int error_ = 0;
};

bool same_file(const std::string& a, const std::string& b)
{
    struct stat one = {}, other = {};
    return a != "-" && b != "-" && ::stat(a.c_str(), &one) == 0 && ::stat(b.c_str(), &other) == 0 &&
           one.st_dev == other.st_dev && one.st_ino == other.st_ino && S_ISREG(one.st_mode);
}

} // namespace

int compute(const ComputeOptions& options)
{
    const File in(options.input, O_RDONLY, STDIN_FILENO);
    if (in.descriptor < 0) return fail("cannot read " + options.input + ": " + std::strerror(errno));
    struct stat kind {};
    if (::fstat(in.descriptor, &kind) == 0 && S_ISDIR(kind.st_mode))
        return fail("cannot read " + options.input + ": it is a folder");
    if (same_file(options.input, options.output))
        return fail("the output " + options.output + " is the input: give another name");
    Output out(options.output);
    if (!out.is_open()) return fail("cannot write " + options.output + ": " + std::strerror(errno));
    const bool csv_in = options.format.empty() ? options.input.ends_with(".csv") : options.format == "csv";
    const bool csv_out = !options.output_format.empty()       ? options.output_format == "csv"
                         : options.output.ends_with(".csv")   ? true
                         : options.output.ends_with(".jsonl") ? false
                                                              : csv_in;
    bool errors = false;
    const auto done = [&](Block& block) {
        errors = errors || block.errors;
        return out.write(block.text);
    };
    const auto work = [&] { return worker(csv_out, options.story); };
    if (csv_out) out.write(csv_header());
    const unsigned cores = std::max(1u, std::thread::hardware_concurrency());
    if (csv_in) {
        std::ifstream file;
        if (options.input != "-") file.open(options.input, std::ios::binary);
        CsvBlocks rows(options.input == "-" ? std::cin : file, csv_out, options.story);
        if (const std::string wrong = rows.header(); !wrong.empty()) return fail(wrong);
        const auto next = [&](Block& block) { return rows.next(block); };
        run_in_order(next, work, done, cores);
    } else {
        LineBlocks lines(in.descriptor);
        bool first = true;
        const auto next = [&](Block& block) {
            if (!lines.next(block)) return false;
            if (first && block.text.starts_with("\xEF\xBB\xBF")) block.text.erase(0, 3);
            first = false;
            return true;
        };
        run_in_order(next, work, done, cores);
        if (lines.failed()) return fail("reading " + options.input + " failed");
    }
    if (!out.finish()) return fail("writing " + options.output + " failed: " + out.trouble());
    return errors ? exit_errors : exit_ok;
}

} // namespace fusain::cli
