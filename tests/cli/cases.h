// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <gtest/gtest.h>

#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <string>
#include <vector>

/// Where the reference cases lie: the project's own, and those that the workplace keeps beside it (tests/cases/README).
namespace fusain {

inline std::vector<std::filesystem::path> case_folders()
{
    std::vector<std::filesystem::path> out{OWN_CASES};
    const std::filesystem::path beside = TEST_SOURCE_DIR "/../shared/cases";
    if (const char* named = std::getenv("FUSAIN_SHARED_CASES"); named && *named) {
        EXPECT_TRUE(std::filesystem::is_directory(named)) << "FUSAIN_SHARED_CASES: no folder " << named;
        out.emplace_back(named);
    } else if (std::filesystem::is_directory(beside)) {
        out.push_back(beside);
    }
    return out;
}

/// The files of cases of a folder by their names; those of a later version stand for earlier ones.
inline std::map<std::string, std::filesystem::path> case_files(const std::filesystem::path& folder)
{
    std::map<std::string, std::filesystem::path> out;
    for (const auto& version : {folder, folder / "v2", folder / "v3"})
        if (std::filesystem::is_directory(version))
            for (const auto& entry : std::filesystem::directory_iterator(version))
                if (entry.path().extension() == ".jsonl") out[entry.path().filename()] = entry.path();
    return out;
}

inline std::string contents(const std::filesystem::path& file)
{
    std::ifstream in(file, std::ios::binary);
    EXPECT_TRUE(in) << file;
    return {std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>()};
}

} // namespace fusain
