namespace LoftyWren.Core.Hardware;

/// <summary>The assignment problem: a column for each row, no column twice, at the least cost in all.</summary>
public static class Assignment
{
    /// <summary>
    /// The column of each row. Rows come in one by one along the cheapest augmenting path, with potentials that keep reduced
    /// costs from going below zero (Kuhn 1955 and Munkres 1957, in the form of Jonker and Volgenant 1987): rows² × columns
    /// steps. Infinite is impossible; every row must have a possible way.
    /// </summary>
    public static int[] Cheapest(double[,] cost)
    {
        int rows = cost.GetLength(0), columns = cost.GetLength(1);
        double[] rowPotential = new double[rows + 1], columnPotential = new double[columns + 1];
        // Column 0 stands for “the row that comes in”; rows and columns count from 1.
        int[] rowOf = new int[columns + 1], from = new int[columns + 1];
        for (int row = 1; row <= rows; row++)
        {
            double[] least = new double[columns + 1];
            Array.Fill(least, double.PositiveInfinity);
            bool[] done = new bool[columns + 1];
            rowOf[0] = row;
            int column = 0;
            do
            {
                done[column] = true;
                int at = rowOf[column], next = 0;
                double step = double.PositiveInfinity;
                for (int c = 1; c <= columns; c++)
                {
                    if (done[c]) continue;
                    double reduced = cost[at - 1, c - 1] - rowPotential[at] - columnPotential[c];
                    if (reduced < least[c]) (least[c], from[c]) = (reduced, column);
                    if (least[c] < step) (step, next) = (least[c], c);
                }
                for (int c = 0; c <= columns; c++)
                {
                    if (done[c])
                    {
                        rowPotential[rowOf[c]] += step;
                        columnPotential[c] -= step;
                    }
                    else least[c] -= step;
                }
                column = next;
            }
            while (rowOf[column] != 0);
            for (; column != 0; column = from[column]) rowOf[column] = rowOf[from[column]];
        }
        int[] columnOf = new int[rows];
        for (int c = 1; c <= columns; c++)
        {
            if (rowOf[c] > 0) columnOf[rowOf[c] - 1] = c - 1;
        }
        return columnOf;
    }
}
