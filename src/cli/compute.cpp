// SPDX-License-Identifier: GPL-3.0-or-later
#include "cli/compute.h"

#include "cli/csv.h"
#include "cli/pipeline.h"
#include "cli/record.h"
#include "core/csv.h"

#include <fcntl.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
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
        : descriptor(name == "-" ? standard : ::open(name.c_str(), flags | O_CLOEXEC, 0666)), own_(name != "-")
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
            if (csv_out) write_csv(out, answer);
            else write_json(out, answer, story);
        }
        block.text = std::move(out);
    };
}

/// Rows of CSV, a batch at a time.
class CsvBlocks {
public:
    CsvBlocks(std::istream& in, bool csv_out, bool story) : in_(in), csv_out_(csv_out), story_(story) {}

    /// Whether there is a header; the rest is read by next().
    bool has_header()
    {
        if (in_.peek() == 0xEF) { // a byte order mark
            char mark[3];
            in_.read(mark, 3);
        }
        const auto header = csv::read_row(in_, line_);
        if (!header || header->front().empty()) return false;
        records_.emplace(*header);
        return true;
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
        if (csv_out_) write_csv(block.text, *trouble_);
        else write_json(block.text, *trouble_, story_);
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
        if (cells->size() == records_->width()) {
            records_->append(block.text, *cells);
            block.text += '\n';
            return;
        }
        trouble_ =
            error_answer("wrong_columns", "Line " + std::to_string(line_) + " has " + std::to_string(cells->size()) +
                                              " cells; the header has " + std::to_string(records_->width()) + ".");
        trouble_->id.clear();
        append_json(trouble_->id, cells->front());
    }

    std::istream& in_;
    bool csv_out_, story_, ended_ = false;
    long line_ = 0;
    std::optional<CsvRecords> records_;
    std::optional<Answer> trouble_; ///< told after the rows before it
};

} // namespace

int compute(const ComputeOptions& options)
{
    const File in(options.input, O_RDONLY, STDIN_FILENO);
    if (in.descriptor < 0) return fail("cannot read " + options.input + ": " + std::strerror(errno));
    const File out(options.output, O_WRONLY | O_CREAT | O_TRUNC, STDOUT_FILENO);
    if (out.descriptor < 0) return fail("cannot write " + options.output + ": " + std::strerror(errno));
    const bool csv_in = options.format.empty() ? options.input.ends_with(".csv") : options.format == "csv";
    const bool csv_out = !options.output_format.empty() ? options.output_format == "csv"
        : options.output.ends_with(".csv")              ? true
        : options.output.ends_with(".jsonl")            ? false
                                                        : csv_in;
    bool errors = false, written = true;
    const auto done = [&](Block& block) {
        errors = errors || block.errors;
        return written = written && write_all(out.descriptor, block.text);
    };
    const auto work = [&] { return worker(csv_out, options.story); };
    if (csv_out) written = write_all(out.descriptor, csv_header());
    const unsigned cores = std::max(1u, std::thread::hardware_concurrency());
    if (csv_in) {
        std::ifstream file;
        if (options.input != "-") file.open(options.input, std::ios::binary);
        CsvBlocks rows(options.input == "-" ? std::cin : file, csv_out, options.story);
        if (!rows.has_header()) return fail("the CSV has no header line of field names");
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
    if (!written) return fail("writing the results failed");
    return errors ? exit_errors : exit_ok;
}

} // namespace fusain::cli
