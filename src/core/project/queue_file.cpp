#include "core/project/queue_file.h"

#include "core/choice_names.h"
#include "core/files/local_file.h"
#include "core/files/new_file.h"
#include "core/project/json_text.h"
#include "core/project/render_fields.h"

namespace yarngap {

namespace {

constexpr int queueVersion = 1;
constexpr std::size_t mostJobs = 10'000;
constexpr std::int64_t largestQueue = 256 << 20;

using State = QueuedRender::State;
constexpr ChoiceNames<State, 6> states{"state of a render",
                                       {{{State::waiting, "waiting"},
                                         {State::running, "running"},
                                         {State::paused, "paused"},
                                         {State::done, "done"},
                                         {State::failed, "failed"},
                                         {State::cancelled, "cancelled"}}}};

auto tellJobIn(const std::filesystem::path& folder) {
    return [&folder](auto& fields, auto& job) {
        fields.needs({"number", "work"});
        fields.value("number", job.number, Whole{0, lastFrame});
        fields.value("state", job.state,
                     Choice{[](State v) { return states.nameOf(v); },
                            [](std::string_view text) { return states.parse(text); }});
        fields.unless("outcome", job.outcome, std::string(), Words{});
        fields.unless("onFarm", job.onFarm, false, Flag{});
        fields.object("work", job.work, tellWorkIn(folder));
    };
}

auto tellQueueIn(const std::filesystem::path& folder) {
    return
        [&folder](auto& fields, auto& jobs) { fields.list("jobs", jobs.list, mostJobs, tellJobIn(folder)); };
}

struct Jobs {
    std::vector<QueuedRender> list;
};

} // namespace

std::vector<QueuedRender> loadQueue(const std::filesystem::path& file) {
    if (!std::filesystem::exists(file)) return {};
    Json json = jsonFrom(contentOf(file, largestQueue, "queue"));
    if (json.is_discarded() || !json.is_object() || !json.contains("yarngapQueue"))
        throw Error(file.string() + " is damaged; the renders that waited are lost. Queue them again.");
    if (json["yarngapQueue"] != queueVersion)
        throw Error(file.string() + " was written by another version of Yarn Gap. Queue the renders again.");
    json.erase("yarngapQueue");
    try {
        Json unknown;
        Jobs jobs = readObject<Jobs>(std::move(json), unknown, tellQueueIn(file.parent_path()));
        std::erase_if(jobs.list, [](const QueuedRender& job) {
            return job.work.shots.empty() || job.work.targets.empty();
        });
        return jobs.list;
    } catch (const Error& error) {
        throw Error(file.string() + ": " + error.what());
    }
}

void saveQueue(const std::vector<QueuedRender>& queue, const std::filesystem::path& file) {
    std::error_code ec;
    std::filesystem::create_directories(file.parent_path(), ec);
    Json json = writeObject(Jobs{queue}, Json::object(), tellQueueIn(file.parent_path()));
    json["yarngapQueue"] = queueVersion;
    writeWhole(file, json.dump(1, ' ', false, Json::error_handler_t::replace) + "\n");
}

} // namespace yarngap
