"""What it takes: tool paths of a plain kind, time, material and money, budgets, and ways to stay within
them.
"""
