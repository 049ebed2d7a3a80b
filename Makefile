# A thin front: CMake does the work, scripts/ holds what has more than a line.
BUILD ?= build
CMAKE_FLAGS ?=
SECONDS_EACH ?= 60

.PHONY: all setup demo check check-long check-fuzz check-os bench pictures format clean

all:
	@scripts/setup build
	@scripts/quietly build-logs/configure "Configuring" cmake -S . -B $(BUILD) \
	    -DTRUESLATE_TESTS=OFF $(CMAKE_FLAGS)
	@scripts/quietly build-logs/build "Building" cmake --build $(BUILD) --parallel

demo: all
	@scripts/demo $(BUILD)/trueslate

check:
	@scripts/setup check
	@scripts/check

check-long:
	@scripts/setup check
	@scripts/check long

check-fuzz:
	@scripts/setup fuzz
	@scripts/fuzz run $(SECONDS_EACH)

check-os:
	@scripts/setup check
	@scripts/check os

bench: all
	@scripts/setup bench
	@scripts/benchmarks $(BUILD)/trueslate

pictures: all
	@scripts/setup pictures
	@scripts/pictures $(BUILD)/trueslate

format:
	@scripts/setup check
	@git ls-files '*.[ch]' | xargs clang-format -i

clean:
	rm -rf build build-*
