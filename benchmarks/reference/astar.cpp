// The yardstick: a plain A* with std::priority_queue, same moves, costs and corner rule as ours.
// Built by benchmarks/reference/build.py with g++ -O3; not part of the product.
#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <queue>
#include <vector>

namespace {
struct Entry {
    double f;
    int64_t node;
    bool operator>(const Entry& other) const { return f > other.f; }
};
}  // namespace

// cost: rows*cols move costs, infinity blocks. Returns the cost, infinity without a path;
// *explored gets the number of cells expanded.
extern "C" double reference_astar(const float* cost, int64_t cols, int64_t rows, double cell_w,
                                  double cell_h, int moves, int64_t start, int64_t goal,
                                  double least, int64_t* explored) {
    const double inf = std::numeric_limits<double>::infinity();
    const int64_t n = cols * rows;
    std::vector<double> g(n, inf);
    std::vector<char> closed(n, 0);
    std::vector<int32_t> parent(n, -1);
    std::priority_queue<Entry, std::vector<Entry>, std::greater<Entry>> open;
    const double diag = std::sqrt(cell_w * cell_w + cell_h * cell_h);
    const int64_t goal_row = goal / cols, goal_col = goal % cols;
    const int d_row[8] = {-1, 0, 1, 0, -1, 1, 1, -1};
    const int d_col[8] = {0, 1, 0, -1, 1, 1, -1, -1};
    auto guess = [&](int64_t row, int64_t col) {
        const double dc = std::abs(static_cast<double>(col - goal_col));
        const double dr = std::abs(static_cast<double>(row - goal_row));
        if (moves == 4) return (dc * cell_w + dr * cell_h) * least;
        const double both = std::min(dc, dr);
        return (both * diag + (dc - both) * cell_w + (dr - both) * cell_h) * least;
    };
    *explored = 0;
    g[start] = 0;
    open.push({guess(start / cols, start % cols), start});
    while (!open.empty()) {
        const int64_t node = open.top().node;
        open.pop();
        if (closed[node]) continue;
        closed[node] = 1;
        ++*explored;
        if (node == goal) return g[node];
        const int64_t row = node / cols, col = node % cols;
        for (int move = 0; move < moves; ++move) {
            const int64_t row2 = row + d_row[move], col2 = col + d_col[move];
            if (row2 < 0 || row2 >= rows || col2 < 0 || col2 >= cols) continue;
            const int64_t next = row2 * cols + col2;
            if (closed[next] || std::isinf(cost[next])) continue;
            if (move >= 4 && (std::isinf(cost[row * cols + col2]) || std::isinf(cost[row2 * cols + col])))
                continue;
            const double length = move >= 4 ? diag : (d_row[move] ? cell_h : cell_w);
            const double g2 = g[node] + length * (cost[node] + cost[next]) * 0.5;
            if (g2 < g[next]) {
                g[next] = g2;
                parent[next] = static_cast<int32_t>(node);
                open.push({g2 + guess(row2, col2), next});
            }
        }
    }
    return inf;
}
