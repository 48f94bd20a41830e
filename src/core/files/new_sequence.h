// Many files that come to be together.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace yarngap {

/// Files that are all there under their names, or none of them, whatever happens on the way.
///
/// They are written into a hidden folder beside their place. finish() waits until the disk has them, notes
/// down what it is about to do, moves away the files that they replace, and moves them in. If one cannot be
/// moved, all go back to where they were. If the program is killed meanwhile, completeMoves() does the rest;
/// all new files are whole by then. Destroyed before finish(), it leaves nothing.
///
///     NewSequence files(folder, replaced);
///     NewFile file(files.placeFor("fox_0000.png"));
///     …
///     files.finish();
class NewSequence {
  public:
    /// `replaced`: names of files in `folder` that go when the new ones come. Throws Error.
    NewSequence(std::filesystem::path folder, std::vector<std::string> replaced);
    ~NewSequence();
    NewSequence(const NewSequence&) = delete;
    NewSequence& operator=(const NewSequence&) = delete;
    NewSequence(NewSequence&&) = delete;
    NewSequence& operator=(NewSequence&&) = delete;

    /// Where to write the file that is to be called `name`.
    std::filesystem::path placeFor(const std::string& name);
    /// Throws Error; then everything is as before. Only if moving back fails too are the files left in the
    /// hidden folder, which the sentence names.
    void finish();

  private:
    void moveAll();
    void moveBack(std::size_t away, std::size_t in);

    std::filesystem::path folder_;
    std::filesystem::path hidden_; ///< empty once it is gone
    std::vector<std::string> replaced_;
    std::vector<std::string> names_;
};

/// Completes what finish() began in a hidden folder of a process that has ended. False when something of it
/// is left that must not be thrown away.
bool completeMoves(const std::filesystem::path& hidden);

} // namespace yarngap
