// Reads a binary STL and gives equal corners one number by a direct hash table: the measure for reading and welding on the machine at hand.
// Prints the CPU milliseconds of each run. Arguments: file, runs.
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <ctime>
#include <vector>

static double cpuMilliseconds() {
  timespec now;
  clock_gettime(CLOCK_PROCESS_CPUTIME_ID, &now);
  return now.tv_sec * 1e3 + now.tv_nsec / 1e6;
}

static size_t weld(const unsigned char* bytes) {
  uint32_t triangles;
  memcpy(&triangles, bytes + 80, 4);
  size_t slots = 1;
  while (slots < triangles) slots *= 2;
  std::vector<int32_t> table(slots, -1), indices(3ull * triangles);
  std::vector<float> points;
  points.reserve(3ull * triangles / 2 + 3000);
  for (uint32_t corner = 0; corner < 3 * triangles; corner++) {
    float p[3];
    uint32_t bits[3];
    memcpy(p, bytes + 84 + 50ull * (corner / 3) + 12 + 12 * (corner % 3), 12);
    for (float& x : p) x += 0.0f;
    memcpy(bits, p, 12);
    uint64_t hash = bits[0] * 0x9E3779B97F4A7C15ull ^ bits[1] * 0xC2B2AE3D27D4EB4Full ^ bits[2] * 0x165667B19E3779F9ull;
    hash ^= hash >> 29;
    hash *= 0xBF58476D1CE4E5B9ull;
    hash ^= hash >> 32;
    size_t slot = hash & (slots - 1);
    while (table[slot] >= 0 && memcmp(&points[3ull * table[slot]], p, 12)) slot = (slot + 1) & (slots - 1);
    if (table[slot] < 0) {
      table[slot] = points.size() / 3;
      points.insert(points.end(), p, p + 3);
    }
    indices[corner] = table[slot];
  }
  std::vector<double> coordinates(points.begin(), points.end());
  return coordinates.size() / 3 + indices.back();
}

int main(int, char** arguments) {
  FILE* file = fopen(arguments[1], "rb");
  fseek(file, 0, SEEK_END);
  std::vector<unsigned char> bytes(ftell(file));
  rewind(file);
  if (fread(bytes.data(), 1, bytes.size(), file) != bytes.size()) return 1;
  volatile size_t sink = 0;
  for (int run = 0; run < atoi(arguments[2]); run++) {
    const double start = cpuMilliseconds();
    sink = sink + weld(bytes.data());
    printf("%.1f\n", cpuMilliseconds() - start);
  }
}
