"""What a worker does, by topic. The functions take and give plain data; bodies live on in the worker's memories, meshes and
files go to the blob directory under names made from their content.
"""
